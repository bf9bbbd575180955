"""Plots of what is known."""
