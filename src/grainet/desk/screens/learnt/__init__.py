"""Days: all builds on one calendar, today on top."""
