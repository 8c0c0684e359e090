"""Where the shape goes on the sheet."""
