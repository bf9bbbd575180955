"""A photo made true and read."""
