"""What a thing means for the job on it: its true edges, the room on it, what fits, how it is seen."""
