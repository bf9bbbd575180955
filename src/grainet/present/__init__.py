"""What a screen shows, worked out without a window: views as values, which screens paint and tests read."""
