"""The wood of a month as strands."""
