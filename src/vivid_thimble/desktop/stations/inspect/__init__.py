"""Findings, sizes, widths, fit."""
