"""One module a step."""
