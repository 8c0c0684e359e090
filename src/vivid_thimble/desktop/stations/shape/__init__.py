"""Places, steps, joins, bridges, the sheet."""
