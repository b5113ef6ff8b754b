"""Do builds of two students have the same origin? A question for the teacher, never a verdict."""
