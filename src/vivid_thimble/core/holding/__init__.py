"""How firmly pieces hang together, and strips that tie them."""
