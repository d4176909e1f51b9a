"""The Teach bench: the rung board, and takes of a student."""
