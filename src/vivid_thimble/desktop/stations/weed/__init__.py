"""What is picked out, and where it goes."""
