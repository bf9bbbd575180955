"""Controls that several screens share."""
