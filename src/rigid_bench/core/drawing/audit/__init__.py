"""The audit of a drawing: do its dimensions fix every size and position, and each once?"""
