"""A job becomes its result: sources placed, steps run, films surveyed, findings worded."""
