"""Draw up: the guitar that is wanted, on the millimetre axis like a board."""
