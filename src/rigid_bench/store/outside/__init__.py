"""What a school has elsewhere: its own accounts, its course platforms, and the marks that are sent back to them."""
