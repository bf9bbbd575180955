"""Order: the steps of one member on a shelf, the rules between them as strings."""
