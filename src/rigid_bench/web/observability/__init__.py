"""What whoever runs the program sees of it: requests with ids, and counts."""
