"""A plan becomes steps, waits and cautions."""
