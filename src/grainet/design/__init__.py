"""What is to be built: outlines, zones, parts, recipes."""
