"""The table: the item at true scale with the design on it."""
