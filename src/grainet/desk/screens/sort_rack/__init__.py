"""The rack sorted and searched."""
