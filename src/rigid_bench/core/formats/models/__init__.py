"""Formats of model files: every module here that has a `FORMAT`."""
