"""People and their school: accounts, signing in, courses elsewhere."""
