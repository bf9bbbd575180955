"""Lay out: parts on wood."""
