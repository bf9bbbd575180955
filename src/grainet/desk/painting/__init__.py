"""How wood, defects, parts, words and charts are painted."""
