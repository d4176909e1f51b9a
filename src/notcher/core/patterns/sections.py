"""Lines and sections proposed above the phrases: a line is some phrases of about four bars together, a section some
lines of about eight; and which sections are an earlier one again.

Source: as for phrases, D. Temperley, "The Cognition of Basic Musical Structures", 2001, ch. 3, one level up and two: a
line is a phrase of phrases; that forms are built of four and eight bars is common practice, no source.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.patterns.cutting import best_cuts
from notcher.core.patterns.events import USUAL_BEAT_S
from notcher.core.patterns.phrasing import Boundary, BoundaryReason, boundaries
from notcher.core.patterns.shapes import Patterns
from notcher.core.patterns.transpositions import Kind
from notcher.core.score import Phrase, Score, Section
from notcher.core.score.identity import new_id

LINE_BARS, SECTION_BARS = 4.0, 8.0  # bars of a line and of the shortest section (common practice, no source)
LENGTH, COST = 1.2, 1.5  # of a stretch twice or half as long; of each boundary
ON_FOUR, ON_EIGHT = 0.6, 0.6  # worth of beginning on a bar that four, that eight come before
NEAR_BAR = 0.3  # bars; a pickup begins before it
NEAR_S = 0.1  # a border may be so far from a bar line and mean it
OF_BOUNDARY = 0.25  # how much of a phrase boundary's worth counts
SAME_SHARE = 0.6  # of its notes that an earlier section explains


@dataclass(frozen=True, slots=True)
class ProposedLine:
    """Some phrases that make a line together, and why it begins where it does, the strongest reason first."""

    phrases: tuple[Phrase, ...]
    reasons: tuple[BoundaryReason, ...] = ()

    @property
    def start_s(self) -> float:
        return self.phrases[0].start_s

    @property
    def end_s(self) -> float:
        return max(phrase.end_s for phrase in self.phrases)


@dataclass(frozen=True, slots=True)
class ProposedSection:
    """A section, why it begins where it does, and whether it repeats an earlier one with another ending (or other
    garnish), or note for note."""

    section: Section
    reasons: tuple[BoundaryReason, ...] = ()
    other_ending: bool = False


def lines_of(score: Score) -> tuple[ProposedLine, ...]:
    """Gather the phrases of a score into lines of about four bars, in order; nothing where there are no phrases."""
    phrases = score.phrases
    if not phrases:
        return ()
    worth, why = _beginnings(score, phrases)
    cuts = [0, *_cuts(worth, _bars(score, phrases), LINE_BARS), len(phrases)]
    return tuple(ProposedLine(phrases[first:last], why[first]) for first, last in pairwise(cuts))


def sections_of(score: Score, patterns: Patterns) -> tuple[ProposedSection, ...]:
    """Propose sections for a score with phrases, named in order; nothing for fewer than two phrases.

    patterns: what comes again in it.
    """
    if len(score.phrases) < 2:
        return ()
    lines = lines_of(score)
    firsts = [line.phrases[0] for line in lines]
    worth, why = _beginnings(score, firsts)
    cuts = [0, *_cuts(worth, _bars(score, firsts), SECTION_BARS), len(lines)]
    sections: list[ProposedSection] = []
    for number, (first, last) in enumerate(pairwise(cuts), start=1):
        end_s = lines[last].start_s if last < len(lines) else lines[-1].end_s
        section = Section(lines[first].start_s, end_s, f"Part {number}", id=new_id())
        same = next((old for old in sections if _explained(score, patterns, section, old.section) >= SAME_SHARE), None)
        if same is None:
            sections.append(ProposedSection(section, why[first]))
        else:
            whole = _explained(score, patterns, section, same.section) == 1.0
            again = Section(section.start_s, end_s, section.name, same.section.id, section.id)
            sections.append(ProposedSection(again, why[first], other_ending=not whole))
    return tuple(sections)


def _bars(score: Score, parts: Sequence[Phrase]) -> FloatArray:
    """Where parts begin and the solo ends, in bars from the first of them; shape (n_parts + 1,)."""
    end_s = max(phrase.end_s for phrase in score.phrases)
    times_s = np.array([part.start_s for part in parts] + [end_s])
    if not score.beat_map.known:
        return np.asarray((times_s - times_s[0]) / (4 * USUAL_BEAT_S))
    return np.asarray(score.beat_map.quarter_at(times_s) / score.beat_map.meter.quarters)


def _beginnings(score: Score, parts: Sequence[Phrase]) -> tuple[FloatArray, list[tuple[BoundaryReason, ...]]]:
    """What beginning a line or section with each part is worth, shape (n_parts,), and why."""
    cuts = boundaries(score)
    bars = _bars(score, parts)[:-1]
    worth, why = np.zeros(len(parts)), []
    for at, part in enumerate(parts):
        near = _near(score, cuts, part.start_s)
        worth[at] = OF_BOUNDARY * near.worth if near is not None else 0.0
        nearest = round(float(bars[at]))
        on_bar = abs(float(bars[at]) - nearest) < NEAR_BAR and score.beat_map.known
        reasons = near.reasons if near is not None else ()
        if on_bar and nearest % 4 == 0:
            worth[at] += ON_FOUR + (ON_EIGHT if nearest % 8 == 0 else 0.0)
            reasons = (BoundaryReason.EIGHT_BARS if nearest % 8 == 0 else BoundaryReason.FOUR_BARS, *reasons)
        why.append((BoundaryReason.FIRST,) if at == 0 else tuple(dict.fromkeys(reasons)))
    return worth, why


def _near(score: Score, cuts: Sequence[Boundary], start_s: float) -> Boundary | None:
    """The boundary where a part begins, if one was found there."""
    return next((boundary for boundary in cuts if abs(score.notes[boundary.first].onset_s - start_s) < NEAR_S), None)


def _cuts(worth: FloatArray, bars: FloatArray, usual_bars: float) -> list[int]:
    """With which parts a stretch of the usual length begins; shape (n_parts,) and (n_parts + 1,)."""
    begins = np.where(np.arange(worth.size) > 0, worth - COST, 0.0)

    def of_stretch(end: int) -> FloatArray:
        length = np.maximum(bars[end] - bars[:end], 0.25)
        return np.asarray(begins[:end] - LENGTH * np.log2(length / usual_bars) ** 2)

    return best_cuts(worth.size, of_stretch)


def _explained(score: Score, patterns: Patterns, section: Section, earlier: Section) -> float:
    """Which share of a section's notes some shape leads back to an earlier one."""
    own = score.notes_between(section.start_s, section.end_s)
    theirs = score.notes_between(earlier.start_s, earlier.end_s)
    explained = set()
    for shape in patterns.shapes:
        if shape.kind in (Kind.RHYTHM, Kind.CELL, Kind.SEQUENCE):
            continue
        for here in shape.occurrences[1:]:
            explained |= {later for first, later in here.pairs if first in theirs and later in own}
    return len(explained) / len(own) if len(own) else 0.0
