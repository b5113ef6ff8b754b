"""A kind of mate, a kind of check and a file format that the program does not have: each from one module."""
