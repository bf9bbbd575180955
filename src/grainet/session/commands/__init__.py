"""The tape line: each word is one definition, with its form, its help and what reads it."""
