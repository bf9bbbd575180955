"""Saw and wait: steps on the bench, and what settles."""
