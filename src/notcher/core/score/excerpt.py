"""A stretch of a solo at a practice pace; a solo moved in time."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import TypeVar

from notcher.core.score.note import Note
from notcher.core.score.pitch_curve import PitchCurve
from notcher.core.score.score import EDGE_S, Phrase, Score, Section

Span = TypeVar("Span", Phrase, Section)


def excerpt(score: Score, start_s: float, end_s: float, *, pace: float = 1.0, lead_s: float = 0.0) -> Score:
    """Return the notes that begin between two times, as they are to be played at a pace.

    lead_s: where `start_s` comes to lie, seconds. A bend takes longer at a slower pace, a vibrato keeps its rate.
    Raises: ValueError for a pace of 0 or less, or when the stretch has no length.
    """
    if pace <= 0 or end_s <= start_s:
        raise ValueError("a practised stretch needs a length and a pace above 0")

    def at(time_s: float) -> float:
        return max(0.0, lead_s + (time_s - start_s) / pace)

    notes = []
    for index in score.notes_between(start_s, end_s):
        note = score.notes[index]
        notes.append(retimed(note, at(note.onset_s), at(min(note.offset_s, end_s + EDGE_S))))
    running = score.running_chord(start_s)
    chords = [replace(chord, start_s=at(chord.start_s)) for chord in score.chords if start_s < chord.start_s < end_s]
    if running is not None:
        chords.insert(0, replace(running, start_s=at(start_s)))
    phrases = tuple(
        replace(phrase, start_s=at(max(phrase.start_s, start_s)), end_s=at(min(phrase.end_s, end_s)))
        for phrase in score.phrases
        if phrase.start_s < end_s - EDGE_S and phrase.end_s > start_s + EDGE_S
    )
    anchors = tuple((lead_s + (time_s - start_s) / pace, quarter) for time_s, quarter in score.beat_map.anchors)
    beat_map = replace(score.beat_map, anchors=anchors)
    part = replace(score, beat_map=beat_map, chords=tuple(chords), phrases=phrases, sections=(), variants=())
    return part.with_notes(notes)


def only(score: Score, start_s: float, end_s: float) -> Score:
    """Return what a score has between two times, its times counted from there; variants are of the whole and go."""
    length_s = end_s - start_s
    sections = tuple(
        replace(section, start_s=max(0.0, section.start_s - start_s), end_s=min(length_s, section.end_s - start_s))
        for section in score.sections
        if section.start_s < end_s - EDGE_S and section.end_s > start_s + EDGE_S
    )
    return replace(excerpt(score, start_s, end_s), sections=sections)


def with_times(score: Score, at: Callable[[float], float]) -> Score:
    """Return the score with everything that lies at a time moved; the beat map stays.

    at: from seconds now to seconds then, rising. Raises: ValueError when a note would end before it starts.
    """

    def moved(notes: Iterable[Note]) -> tuple[Note, ...]:
        return tuple(retimed(note, max(0.0, at(note.onset_s)), at(note.offset_s)) for note in notes)

    def span(part: Span) -> Span:
        return replace(part, start_s=max(0.0, at(part.start_s)), end_s=at(part.end_s))

    return replace(
        score,
        notes=moved(score.notes),
        chords=tuple(replace(chord, start_s=at(chord.start_s)) for chord in score.chords),
        phrases=tuple(map(span, score.phrases)),
        sections=tuple(map(span, score.sections)),
        variants=tuple(replace(variant, notes=moved(variant.notes)) for variant in score.variants),
        excluded=tuple(
            replace(
                excluded,
                onset_s=at(excluded.onset_s),
                note=None if excluded.note is None else moved([excluded.note])[0],
            )
            for excluded in score.excluded
        ),
    )


def retimed(note: Note, onset_s: float, offset_s: float) -> Note:
    """Return a note at other times: its curve fills the new length, its vibrato begins at the same share of it.

    Raises: ValueError when it would end before it starts.
    """
    if offset_s <= onset_s:
        raise ValueError(f"a note must end after it starts: {onset_s} s to {offset_s} s")
    stretch = (offset_s - onset_s) / note.duration_s
    wave = note.vibrato
    return replace(
        note,
        onset_s=onset_s,
        offset_s=offset_s,
        curve=PitchCurve(tuple((time_s * stretch, bend) for time_s, bend in note.curve.points)),
        vibrato=None if wave is None else replace(wave, from_s=wave.from_s * stretch),
    )
