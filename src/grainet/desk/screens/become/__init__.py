"""Become: what the wood that is there can become."""
