"""The term: lessons and their exercises, how long these take, who is behind."""
