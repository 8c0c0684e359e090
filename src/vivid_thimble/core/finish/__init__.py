"""What happens after the cut: weeding and applying."""
