"""Practice: drills made from seeds, each solved by the engine before it is shown."""
