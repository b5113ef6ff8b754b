"""Builds: handed in, put together on the bench, asked about, marked, returned and printed."""
