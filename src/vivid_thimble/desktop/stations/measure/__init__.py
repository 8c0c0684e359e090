"""The thing, its margins, the film."""
