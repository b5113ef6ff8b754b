"""Signing in where a school has its accounts already: its identity provider, its course platforms."""
