"""The window and what opens and closes with it."""
