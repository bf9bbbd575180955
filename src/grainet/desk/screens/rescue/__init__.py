"""Ways out of a part that the rack does not give."""
