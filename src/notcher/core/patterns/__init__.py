"""What comes again in a solo, and what moves; where its phrases are."""

from notcher.core.patterns.marks import phrase_marks
from notcher.core.patterns.phrasing import Boundary, BoundaryReason, boundaries, phrases_of
from notcher.core.patterns.repeats import moved_cells, repeats
from notcher.core.patterns.sections import ProposedLine, ProposedSection, lines_of, sections_of
from notcher.core.patterns.shapes import NO_PATTERNS, Group, Occurrence, Pattern, Patterns, patterns
from notcher.core.patterns.transpositions import Kind

__all__ = [
    "NO_PATTERNS",
    "Boundary",
    "BoundaryReason",
    "Group",
    "Kind",
    "Occurrence",
    "Pattern",
    "Patterns",
    "ProposedLine",
    "ProposedSection",
    "boundaries",
    "lines_of",
    "moved_cells",
    "patterns",
    "phrase_marks",
    "phrases_of",
    "repeats",
    "sections_of",
]
