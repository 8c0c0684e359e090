"""What the Gather station shows for sources that put letters together themselves."""
