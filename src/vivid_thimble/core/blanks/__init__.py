"""Blanks: the things that get decorated, how they are measured and what room they leave."""
