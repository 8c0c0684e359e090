"""What one takes to the bench: the place of every film and piece, the sheet in the cutter, the job sheet."""
