"""The window around the benches: opening and saving, notices, the work strip, and the root that puts all together."""
