"""Pages of the Shape station, and what they are made of."""
