"""What could not be understood."""
