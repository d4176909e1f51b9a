"""What is said of the selected notes' phrase, section, bar and rhythm.

Each takes a score and what is selected, and returns the score with that said. Raises: ValueError where it cannot be.
"""

from dataclasses import replace

from notcher.core.score.beat_map import Swing
from notcher.core.score.edits import with_meter
from notcher.core.score.form import (
    SHORTEST_PHRASE_S,
    free_name,
    split_phrase,
    with_border,
    with_phrase,
    with_section,
    without_section,
)
from notcher.core.score.key import Key
from notcher.core.score.meter import meter_from_text
from notcher.core.score.rhythm import measured_swing
from notcher.core.score.score import EDGE_S, Phrase, Score, Section
from notcher.core.score.selection import Selection

USUAL_SWING = 2 / 3  # where the playing does not tell (common practice, no source)
LEAST_SWING = 0.55  # who says that it swings hears more than nothing
ONCE = " once"
SAME_SPAN_S = 0.01  # as borders are drawn
NO_BEATS = "there are no beats yet: tap them on the Hear bench first"
NO_PHRASE = "no phrase lies near this note: make one of the selected notes first"


# --- rhythm ---
def swung(score: Score, chosen: Selection) -> Score:
    """Call the selected notes' bars swung, or straight where they are."""
    beat_map, notes = score.beat_map, list(chosen.notes(score))
    if not beat_map.known or not notes:
        raise ValueError(NO_BEATS)
    first, last = (beat_map.bar_at(beat_map.quarter(note.onset_s)) for note in (notes[0], notes[-1]))
    start, end = beat_map.bar_start(first), beat_map.bar_start(last + 1)
    outside_parts = [part for old in beat_map.swings for part in _outside(old, start, end)]
    share = measured_swing(score, start, end) or USUAL_SWING
    new = [] if beat_map.swing_at(start) > 0.5 else [Swing(start, end, max(share, LEAST_SWING))]
    swings = tuple(sorted([*outside_parts, *new], key=lambda part: part.start))
    return replace(score, beat_map=replace(beat_map, swings=swings))


def _outside(swing: Swing, start: float, end: float) -> list[Swing]:
    """What of a swung stretch lies before and after another."""
    parts = []
    if swing.start < start:
        parts.append(replace(swing, end=min(swing.end, start)))
    if swing.end > end:
        parts.append(replace(swing, start=max(swing.start, end)))
    return parts


def bar_of(score: Score, chosen: Selection) -> int:
    """Return the bar of the note that keys act on first; 1 before it."""
    if not score.beat_map.known:
        raise ValueError(NO_BEATS)
    return max(1, score.beat_map.bar_at(score.beat_map.quarter(chosen.note(score).onset_s + EDGE_S)))


def with_meter_from(score: Score, chosen: Selection, text: str, *, keeps_felt: bool) -> Score:
    """Take a meter from the bar of the selected note on; "2/4 once" for this bar alone; see `with_meter`."""
    bar, once = bar_of(score, chosen), text.strip().endswith(ONCE)
    meter = meter_from_text(text.strip().removesuffix(ONCE))
    return with_meter(score, bar, meter, until=bar + 1 if once else None, keeps_felt=keeps_felt)


# --- phrases ---
def with_phrase_key(score: Score, chosen: Selection, key: Key | None) -> Score:
    """Take a key for the phrase; None for the solo's."""
    return with_phrase(score, replace(chosen.phrase(score), key=key))


def with_phrase_of(score: Score, chosen: Selection, name: str) -> Score:
    """Make the selected notes a phrase of their own; phrases around it give way."""
    notes = list(chosen.notes(score))
    if not notes:
        raise ValueError("no note is selected")
    end_s = max(note.offset_s for note in notes)
    after = score.position(notes[-1].id) + 1
    if after < len(score.notes):
        end_s = min(end_s, score.notes[after].onset_s)
    return with_phrase(score, Phrase(notes[0].onset_s, end_s, name.strip()))


def with_phrase_name(score: Score, chosen: Selection, name: str) -> Score:
    """Call the phrase here otherwise."""
    return with_phrase(score, replace(chosen.phrase(score), name=name.strip()))


def begun_here(score: Score, chosen: Selection) -> Score:
    """Let a phrase begin with the selected note: the one it lies in, else the next."""
    note = chosen.note(score)
    later = (phrase for phrase in score.phrases if phrase.start_s > note.onset_s)
    phrase = score.phrase_at(note.onset_s) or next(later, None)
    if phrase is None:
        raise ValueError(NO_PHRASE)
    return with_border(score, phrase.id, start_s=note.onset_s)


def ended_here(score: Score, chosen: Selection) -> Score:
    """Let a phrase end with the selected note: the one it lies in, else the one before."""
    note = chosen.note(score)
    before = [phrase for phrase in score.phrases if phrase.end_s <= note.onset_s + EDGE_S]
    phrase = score.phrase_at(note.onset_s) or (before[-1] if before else None)
    if phrase is None:
        raise ValueError(NO_PHRASE)
    following = score.position(note.id) + 1
    room_s = score.notes[following].onset_s if following < len(score.notes) else note.offset_s
    end_s = max(min(note.offset_s, room_s), note.onset_s + SHORTEST_PHRASE_S)
    return with_border(score, phrase.id, end_s=end_s)


def split_here(score: Score, chosen: Selection) -> Score:
    """Cut the phrase before the selected note."""
    phrase = chosen.phrase(score)
    return split_phrase(score, phrase.id, chosen.note(score).onset_s, free_name(score, phrase.name))


# --- sections ---
def section_of(score: Score, chosen: Selection) -> Section | None:
    """Return the innermost section that the selected note lies in."""
    if not chosen.note_id:
        return None
    note = chosen.note(score)
    sections = [section for section in score.sections if section.holds(note.onset_s)]
    return min(sections, key=lambda section: section.end_s - section.start_s, default=None)


def sections_before(score: Score, chosen: Selection) -> tuple[Section, ...]:
    """Return the sections that the one here may repeat."""
    here = section_of(score, chosen)
    if here is None:
        return ()
    return tuple(section for section in score.sections if section.end_s <= here.start_s + SAME_SPAN_S)


def with_section_around(score: Score, chosen: Selection, name: str) -> Score:
    """Make a section that holds the phrases of the selected notes; one that spans just these is called otherwise."""
    covering = [score.phrase_at(note.onset_s) for note in chosen.notes(score)]
    phrases = [phrase for phrase in covering if phrase is not None]
    if not phrases:
        raise ValueError("a section holds phrases, and no phrase lies here")
    start_s, end_s = min(phrase.start_s for phrase in phrases), max(phrase.end_s for phrase in phrases)
    here = section_of(score, chosen)
    if here is not None and max(abs(here.start_s - start_s), abs(here.end_s - end_s)) < SAME_SPAN_S:
        return with_section(score, replace(here, name=name.strip()))
    return with_section(score, Section(start_s, end_s, name.strip()))


def without_section_here(score: Score, chosen: Selection) -> Score:
    """Take the section here away; its phrases stay."""
    here = section_of(score, chosen)
    if here is None:
        raise ValueError("no section lies here")
    return without_section(score, here.id)


def with_repeat(score: Score, chosen: Selection, name: str) -> Score:
    """Say which earlier section the one here is the same as; another name for none."""
    here = section_of(score, chosen)
    if here is None:
        raise ValueError("no section lies here")
    same = next((section.id for section in sections_before(score, chosen) if section.name == name), "")
    return with_section(score, replace(here, repeats=same))
