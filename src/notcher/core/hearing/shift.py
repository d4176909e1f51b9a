"""Putting what was heard in a cut-out part back at its time in the whole recording."""

from dataclasses import replace

from notcher.core.hearing.draft import Draft
from notcher.core.score import Pulse


def shifted(heard: Draft, by_s: float) -> Draft:
    """Return the draft with every time moved later by `by_s` seconds."""
    if by_s == 0:
        return heard
    score = heard.score
    moved = replace(
        score,
        notes=tuple(replace(note, onset_s=note.onset_s + by_s, offset_s=note.offset_s + by_s) for note in score.notes),
        pulse=Pulse(tuple((time_s + by_s, beat) for time_s, beat in score.pulse.anchors), score.pulse.meter),
        chords=tuple(replace(chord, start_s=chord.start_s + by_s) for chord in score.chords),
        phrases=tuple(replace(one, start_s=one.start_s + by_s, end_s=one.end_s + by_s) for one in score.phrases),
    )
    return replace(heard, score=moved, track=replace(heard.track, times_s=heard.track.times_s + by_s))
