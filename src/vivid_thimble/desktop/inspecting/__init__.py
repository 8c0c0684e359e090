"""The pages of the Inspect station: findings, sizes, widths, fit."""
