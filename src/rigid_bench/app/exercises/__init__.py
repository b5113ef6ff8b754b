"""Exercises: drafted, released, their sizes changed."""
