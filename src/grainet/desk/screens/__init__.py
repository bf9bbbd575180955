"""The screens, one folder each."""
