"""What comes again in a solo, and what moves."""

from notcher.core.patterns.repeats import moved_cells, repeats

__all__ = ["moved_cells", "repeats"]
