"""From candidates to a verified plan: selection, cuts, offcuts, and the independent check."""
