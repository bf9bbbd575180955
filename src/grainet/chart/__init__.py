"""Pictures of figures: what is drawn, as values; screens and files draw it."""
