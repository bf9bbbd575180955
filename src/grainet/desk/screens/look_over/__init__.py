"""Look over: what a piece gives."""
