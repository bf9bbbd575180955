"""The bands that are always there: rack, head with the tape line, ruler, rail, notices."""
