"""Kinds of drill: a module for each; one that has a `KIND` is found by itself."""
