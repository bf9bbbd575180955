"""The story of an instrument: the page that is printed, at the size of the screen."""
