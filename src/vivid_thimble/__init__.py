"""Vivid Thimble: clean cut paths for film and sheet, checked at the final size."""

__version__ = "0.1.0"
