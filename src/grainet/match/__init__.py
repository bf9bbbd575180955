"""How two leaves or boards go together: openings, drift, pairing."""
