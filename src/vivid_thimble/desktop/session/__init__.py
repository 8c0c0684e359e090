"""The open job: its history, what is worked out of it and how, the materials at hand."""
