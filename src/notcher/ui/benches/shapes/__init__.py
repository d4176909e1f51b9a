"""The Shapes bench: what comes again in the solo, and what it saves."""
