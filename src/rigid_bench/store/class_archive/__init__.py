"""A whole class as a zip: people, exercises, plan, builds with their files, reports, marks and comments; and back."""
