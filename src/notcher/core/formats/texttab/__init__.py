"""Text tab, written and read."""
