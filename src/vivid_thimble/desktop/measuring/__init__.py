"""The pages of Measure."""
