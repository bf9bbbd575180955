"""What the shop has and holds to."""
