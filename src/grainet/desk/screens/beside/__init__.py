"""Another shop beside this one: what differs, and bringing it in."""
