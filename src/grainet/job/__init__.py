"""The question put to the planner and the answer that it gives, as values."""
