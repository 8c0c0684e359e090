"""Files that come in and go out."""
