"""Where shapes come from: words in a font, downloaded artwork."""
