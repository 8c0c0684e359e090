"""What leaves for the cutter."""
