"""Pictures of wood: the solid-wood model and what is read from pictures."""
