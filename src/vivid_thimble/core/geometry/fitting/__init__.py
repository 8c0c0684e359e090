"""Curves through points: few nodes, true corners, no ripples."""
