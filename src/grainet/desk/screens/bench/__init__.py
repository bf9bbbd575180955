"""The bench: one operation on the whole screen, four keys."""
