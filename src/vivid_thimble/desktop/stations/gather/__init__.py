"""Words, drawings, pictures and what else a design is made of."""
