"""What comes again in a solo, and what moves."""

from notcher.core.patterns.phrasing import Boundary, Reason, boundaries, phrases_of, strokes
from notcher.core.patterns.repeats import moved_cells, repeats

__all__ = ["Boundary", "Reason", "boundaries", "moved_cells", "phrases_of", "repeats", "strokes"]
