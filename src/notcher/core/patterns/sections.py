"""Sections proposed above the phrases: stretches of whole phrases, of about eight bars, that begin where something
begins; and which of them are an earlier one again.

Source: as for phrases, D. Temperley, "The Cognition of Basic Musical Structures", 2001, ch. 3, one level up: a section
is a phrase of phrases; that forms are built of four and eight bars is common practice, no source.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.patterns.cutting import best_cuts
from notcher.core.patterns.events import USUAL_BEAT_S
from notcher.core.patterns.moves import Kind
from notcher.core.patterns.phrasing import boundaries
from notcher.core.patterns.shapes import Patterns
from notcher.core.score import Score, Section
from notcher.core.score.identity import new_id

USUAL_BARS, LENGTH, COST = 8.0, 1.2, 1.5
ON_FOUR, ON_EIGHT = 0.6, 0.6  # worth of beginning on a bar that four, that eight come before
OF_BOUNDARY = 0.25  # how much of a phrase boundary's worth counts
SAME_SHARE = 0.6  # of its notes that an earlier section explains


@dataclass(frozen=True, slots=True)
class ProposedSection:
    """A section, and whether it repeats an earlier one with another ending (or other garnish), or note for note."""

    section: Section
    other_ending: bool = False


def sections_of(score: Score, found: Patterns) -> tuple[ProposedSection, ...]:
    """Propose sections for a score with phrases, named in order; nothing for fewer than two phrases.

    found: what comes again in it.
    """
    phrases = score.phrases
    if len(phrases) < 2:
        return ()
    starts_s = np.array([phrase.start_s for phrase in phrases])
    bars = _bars(score, np.append(starts_s, max(phrase.end_s for phrase in phrases)))
    cuts = [0, *_cuts(_worth(score, starts_s, bars), bars), len(phrases)]
    sections: list[ProposedSection] = []
    for number, (first, last) in enumerate(pairwise(cuts), start=1):
        end_s = phrases[last].start_s if last < len(phrases) else max(phrase.end_s for phrase in phrases)
        section = Section(phrases[first].start_s, end_s, f"Part {number}", id=new_id())
        same = next((old for old in sections if _explained(score, found, section, old.section) >= SAME_SHARE), None)
        if same is None:
            sections.append(ProposedSection(section))
        else:
            whole = _explained(score, found, section, same.section) == 1.0
            again = Section(section.start_s, end_s, section.name, same.section.id, section.id)
            sections.append(ProposedSection(again, other_ending=not whole))
    return tuple(sections)


def _bars(score: Score, times_s: FloatArray) -> FloatArray:
    """Where times are, in bars from the first of them."""
    if not score.beat_map.known:
        return np.asarray((times_s - times_s[0]) / (4 * USUAL_BEAT_S))
    return np.asarray(score.beat_map.quarter_at(times_s) / score.beat_map.meter.quarters)


def _worth(score: Score, starts_s: FloatArray, bars: FloatArray) -> FloatArray:
    """What beginning a section with each phrase is worth."""
    told = boundaries(score)
    times_s = np.array([score.notes[boundary.first].onset_s for boundary in told])
    worth = np.zeros(starts_s.size)
    for at, start_s in enumerate(starts_s.tolist()):
        near = int(np.abs(times_s - start_s).argmin()) if times_s.size else -1
        if near >= 0 and abs(times_s[near] - start_s) < 0.1:
            worth[at] = OF_BOUNDARY * told[near].worth
    nearest = np.rint(bars[:-1])
    on_bar = np.abs(bars[:-1] - nearest) < 0.3
    worth += np.where(on_bar & (nearest % 4 == 0), ON_FOUR, 0.0) + np.where(on_bar & (nearest % 8 == 0), ON_EIGHT, 0.0)
    return worth


def _cuts(worth: FloatArray, bars: FloatArray) -> list[int]:
    """The phrases with which sections begin."""
    begins = np.where(np.arange(worth.size) > 0, worth - COST, 0.0)

    def of_section(end: int) -> FloatArray:
        length = np.maximum(bars[end] - bars[:end], 0.25)
        return np.asarray(begins[:end] - LENGTH * np.log2(length / USUAL_BARS) ** 2)

    return best_cuts(worth.size, of_section)


def _explained(score: Score, found: Patterns, section: Section, earlier: Section) -> float:
    """Which share of a section's notes some shape leads back to an earlier one."""
    own = score.notes_between(section.start_s, section.end_s)
    theirs = score.notes_between(earlier.start_s, earlier.end_s)
    told = set()
    for shape in found.shapes:
        if shape.kind in (Kind.RHYTHM, Kind.CELL, Kind.SEQUENCE):
            continue
        for here in shape.occurrences[1:]:
            told |= {later for first, later in here.pairs if first in theirs and later in own}
    return len(told) / len(own) if len(own) else 0.0
