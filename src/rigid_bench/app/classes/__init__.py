"""Classes: made and put away, given exercises, planned, given practice."""
