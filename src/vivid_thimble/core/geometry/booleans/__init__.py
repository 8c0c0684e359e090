"""What only serves booleans: kernels on a grid, their check, and curves that survive them."""
