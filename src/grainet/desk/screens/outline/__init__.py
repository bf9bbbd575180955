"""The body's outline: its handles, its zones, and where its lines come from."""
