"""The Hear bench: what part of the recording is analysed, its tuning, its beats."""
