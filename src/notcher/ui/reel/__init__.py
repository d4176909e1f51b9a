"""The strip that never leaves: the whole recording, and the transport under it."""
