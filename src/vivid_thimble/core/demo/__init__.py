"""The jobs of the demonstration."""
