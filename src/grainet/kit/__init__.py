"""What the shop has and holds to: kerfs, losses, machine limits, climate, thresholds."""
