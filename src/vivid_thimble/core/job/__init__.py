"""A job as it is saved, and what tells two of them apart."""
