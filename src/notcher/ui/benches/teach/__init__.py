"""The Teach bench: the practice board, and takes of a student."""
