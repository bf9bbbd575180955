"""Plans of one build side by side."""
