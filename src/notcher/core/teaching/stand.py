"""What stands on one line for somebody two metres away: few notes, cut where bars or phrases end."""

import itertools
import math
from dataclasses import dataclass

from notcher.core.score import Phrase, Score
from notcher.core.words import bar_words

MOST_NOTES, LEAST_NOTES = 12, 4  # on a line: more are too small to read from there
CUT_REACH = 3  # notes round the even place, among which a bar's beginning is looked for


@dataclass(frozen=True, slots=True)
class StandLine:
    """One line: from when to when, of which phrase (None between phrases), and how many of its lines there are."""

    start_s: float
    end_s: float
    phrase: Phrase | None
    number: int = 1
    count: int = 1


def stand_lines(score: Score) -> list[StandLine]:
    """Return the lines of a solo, in order: phrase by phrase, long ones cut at bars where they can be."""
    spans: list[tuple[float, float, Phrase | None]] = [
        (phrase.start_s, phrase.end_s, phrase) for phrase in score.phrases if score.notes_of(phrase)
    ]
    inside = {at for phrase in score.phrases for at in score.notes_of(phrase)}
    loose: list[int] = []
    for at in range(len(score.notes) + 1):  # what no phrase holds stands on lines of its own
        if at < len(score.notes) and at not in inside:
            loose.append(at)
        elif loose:
            spans.append((score.notes[loose[0]].onset_s, score.notes[loose[-1]].offset_s + 0.01, None))
            loose = []
    return [line for start_s, end_s, phrase in sorted(spans, key=lambda span: span[0])
             for line in _cut(score, start_s, end_s, phrase)]  # fmt: skip


def _cut(score: Score, start_s: float, end_s: float, phrase: Phrase | None) -> list[StandLine]:
    onsets = [score.notes[at].onset_s for at in score.notes_between(start_s, end_s)]
    count = max(1, -(-len(onsets) // MOST_NOTES))
    borders = [start_s]
    for number in range(1, count):
        even = round(number * len(onsets) / count)
        near = range(max(1, even - CUT_REACH), min(len(onsets), even + CUT_REACH + 1))
        fits = [at for at in near if onsets[at] > borders[-1]]
        if fits:
            borders.append(onsets[min(fits, key=lambda at: (not _begins_bar(score, onsets[at]), abs(at - even)))])
    borders.append(end_s)
    pairs = list(itertools.pairwise(borders))
    return [StandLine(first, last, phrase, at + 1, len(pairs)) for at, (first, last) in enumerate(pairs)]


def _begins_bar(score: Score, time_s: float) -> bool:
    beat_map = score.beat_map
    if not beat_map.known:
        return False
    quarter = beat_map.quarter(time_s)
    return abs(quarter - beat_map.bar_start(beat_map.bar_at(quarter + 0.1))) < 0.12


def line_at(lines: list[StandLine], time_s: float) -> int:
    """Return which line is read at a time: the one it lies in, else the next; the last at the end."""
    return next((at for at, line in enumerate(lines) if time_s < line.end_s - 1e-6), max(0, len(lines) - 1))


def place_words(score: Score, time_s: float) -> tuple[str, str, str]:
    """Return the chord that sounds, the bar and the beat at a time; empty where nobody knows."""
    chord = next((chord.name for chord in reversed(score.chords) if chord.start_s <= time_s + 1e-6), "")
    beat_map = score.beat_map
    if not beat_map.known:
        return chord, "", ""
    bar, beat = beat_map.bar_and_beat(math.floor(beat_map.felt(beat_map.quarter(time_s)) + 0.02))
    return chord, bar_words(bar), str(beat)
