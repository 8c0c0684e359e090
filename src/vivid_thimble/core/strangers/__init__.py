"""Files from anywhere, read by processes that can do no harm."""
