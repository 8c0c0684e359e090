"""Made-up steps, sources and stations: what an addition consists of. ``test_additions`` puts them into a copy."""
