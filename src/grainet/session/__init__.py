"""One open shop: apply an edit, undo, redo, search, cached verdicts."""
