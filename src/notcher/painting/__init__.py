"""Music on any QPainter: no widgets, works without a display."""
