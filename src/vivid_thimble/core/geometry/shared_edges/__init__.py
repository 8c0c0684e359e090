"""Areas side by side whose common edges are the same curves."""
