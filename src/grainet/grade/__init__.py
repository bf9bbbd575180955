"""What a stretch of wood is good for, and why: uses, rules, verdicts."""
