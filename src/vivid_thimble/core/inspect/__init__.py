"""Finding what would go wrong if the shape were cut at this size."""
