"""Films, carriers, surfaces and methods: what one cuts, on what, for what."""
