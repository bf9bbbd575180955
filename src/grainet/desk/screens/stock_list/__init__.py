"""A list of stock looked at before it is brought in."""
