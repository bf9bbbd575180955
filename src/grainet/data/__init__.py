"""Shipped facts: species and fonts."""
