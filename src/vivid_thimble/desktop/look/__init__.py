"""How it looks and in which words: colours, marks, texts, what one prefers."""
