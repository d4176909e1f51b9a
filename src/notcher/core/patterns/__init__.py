"""What comes again in a solo, and what moves; where its phrases are."""

from notcher.core.patterns.marks import phrase_marks
from notcher.core.patterns.moves import Kind
from notcher.core.patterns.phrasing import Boundary, Reason, boundaries, phrases_of
from notcher.core.patterns.repeats import moved_cells, repeats
from notcher.core.patterns.sections import ProposedLine, ProposedSection, lines_of, sections_of
from notcher.core.patterns.shapes import NO_PATTERNS, Group, Occurrence, Patterns, Shape, patterns

__all__ = [
    "NO_PATTERNS",
    "Boundary",
    "Group",
    "Kind",
    "Occurrence",
    "Patterns",
    "ProposedLine",
    "ProposedSection",
    "Reason",
    "Shape",
    "boundaries",
    "lines_of",
    "moved_cells",
    "patterns",
    "phrase_marks",
    "phrases_of",
    "repeats",
    "sections_of",
]
