"""Solids made or changed: features taken off, sizes changed, plates."""
