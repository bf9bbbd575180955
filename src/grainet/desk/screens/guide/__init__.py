"""The guide."""
