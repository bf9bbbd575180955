"""Cards that lie over a screen: a mark, the tried part, rules, what to mind."""
