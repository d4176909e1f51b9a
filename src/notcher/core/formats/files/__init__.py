"""How files are written and kept: whole or not at all, line by line, held by one window."""
