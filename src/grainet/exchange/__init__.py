"""Files that others read and write: JSON, CSV, PDF."""
