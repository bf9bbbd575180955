"""A neck of strips."""
