"""What a changed size touches: in its own exercise, and in others that have the part."""
