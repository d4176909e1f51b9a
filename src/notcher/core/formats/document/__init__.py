"""The .notch document: its parts, what changed in it, what a crash leaves of it."""
