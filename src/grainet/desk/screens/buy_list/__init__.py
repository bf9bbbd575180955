"""Buy list: what an instrument wants that the rack does not give."""
