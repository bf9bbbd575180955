"""The window. The only floor with Qt in it."""
