"""Bring in: a piece is told and measured."""
