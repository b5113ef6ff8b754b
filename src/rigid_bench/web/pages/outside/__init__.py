"""Pages by which people come from, and go to, what a school has elsewhere."""
