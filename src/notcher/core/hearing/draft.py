"""From a recording to a drafted score: the whole way, in the order a person would go."""

from dataclasses import dataclass, replace

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, NotcherError, Progress, never_cancelled, no_progress
from notcher.core.hearing.echo import find_echo, without_echo
from notcher.core.hearing.onsets import OnsetCurve, onset_curve
from notcher.core.hearing.phrasing import phrases_of
from notcher.core.hearing.pitch import HOP_S, RATE, PitchTrack, track_pitch
from notcher.core.hearing.pulse import find_pulse
from notcher.core.hearing.segments import Segment, segments
from notcher.core.hearing.shape import Shape, shape_of
from notcher.core.hearing.tone import Heard, heard_notes
from notcher.core.hearing.tuning import TuningProposal, offset_cents, propose_tunings
from notcher.core.neck import Place, Placed, Sounding, place
from notcher.core.score import LAST_FRET, LEGATO_STRIKES, End, Note, Score, Tuning
from notcher.core.sound import Clip, focused, peak_dbfs, resampled

SHORTEST_S = 0.3
SILENT_DBFS = -60.0
DOUBT_BELOW = 0.6
EQUAL_PLACES_COST = 0.12
EQUAL = "two places are as easy"


class HearingError(NotcherError):
    """There is no lead to hear."""


@dataclass(frozen=True, slots=True)
class Draft:
    """What was heard: the score, the pitch it rests on, the tunings that would fit, the focus used."""

    score: Score
    track: PitchTrack
    tunings: tuple[TuningProposal, ...]
    focus: str


def draft(
    clip: Clip,
    *,
    focus: str = "auto",
    tuning: Tuning | None = None,
    school: str = "position",
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> Draft:
    """Hear a recording: lead, pitch, strikes, notes, tuning, places, pulse, phrases.

    tuning: None lets the likeliest be taken; its cents offset is measured either way.
    Raises: HearingError when there is nothing to hear; Cancelled.
    """
    _check(clip)
    sound = resampled(focused(clip, focus), from_rate=clip.sample_rate, to_rate=RATE)
    echo = find_echo(sound)
    if echo is not None:
        sound = without_echo(sound, echo)
    progress(0.08)
    if cancelled():
        raise Cancelled
    track = track_pitch(sound, progress=lambda share: progress(0.1 + 0.7 * share), cancelled=cancelled)
    onsets = onset_curve(sound)
    cuts = segments(track, onsets)
    progress(0.85)
    if not cuts:
        raise HearingError(
            "No lead was heard in this recording: nothing in it holds a pitch.",
            "Check that it is the right file, or try another focus.",
        )
    midi = track.midi
    offset = _offset(midi, cuts)
    heard = heard_notes(cuts, _shapes(midi, cuts, offset), track, onsets, sound)
    proposals = propose_tunings([one.fretted_midi for one in heard], offset)
    neck = replace(tuning, offset_cents=round(offset, 1)) if tuning is not None else proposals[0].tuning
    notes = _placed_notes(heard, neck, school)
    progress(0.95)
    pulse = find_pulse(_pulse_flux(clip, sound, onsets, focus))
    score = Score(notes, neck, pulse, title=clip.name.rsplit(".", 1)[0])
    progress(1.0)
    return Draft(replace(score, phrases=phrases_of(score)), track, proposals, focus)


def _check(clip: Clip) -> None:
    if clip.duration_s < SHORTEST_S:
        raise HearingError(
            f"This recording lasts only {clip.duration_s * 1000:.0f} ms.", f"Open one of at least {SHORTEST_S:.1f} s."
        )
    peak = peak_dbfs(clip.samples)
    if peak < SILENT_DBFS:
        loudest = "it is digital silence" if np.isneginf(peak) else f"its loudest moment is {peak:.0f} dBFS"
        raise HearingError(f"No lead was heard: {loudest}.", "Open another recording, or record again with more level.")


def _offset(track_midi: FloatArray, cuts: list[Segment]) -> float:
    """Cents off concert pitch, from the steady second half of notes that hardly move."""
    middles, weights = [], []
    for cut in cuts:
        midi = track_midi[cut.first + 3 : cut.own_last]
        midi = midi[~np.isnan(midi)]
        if midi.size >= 6 and np.percentile(midi, 90) - np.percentile(midi, 10) < 0.3:
            middles.append(float(np.median(midi)))
            weights.append(min(midi.size * HOP_S, 0.6))
    return offset_cents(np.array(middles), np.array(weights))


def _shapes(midi: FloatArray, cuts: list[Segment], offset: float) -> list[Shape | None]:
    """The shape of each segment; None where not one frame is voiced."""
    found: list[Shape | None] = []
    for cut in cuts:
        part = midi[cut.first : cut.own_last]
        voiced = not np.isnan(part).all()
        found.append(shape_of(part, struck=cut.struck, offset_cents=offset) if voiced else None)
    return found


def _placed_notes(heard: list[Heard], neck: Tuning, school: str) -> tuple[Note, ...]:
    low, high = min(neck.open_midi), max(neck.open_midi) + LAST_FRET
    heard = [one for one in heard if low <= one.fretted_midi <= high]
    soundings = [_sounding(one) for one in heard]
    placed = place(soundings, neck, school=school)
    notes = [
        _note(one, found, following) for one, found, following in zip(heard, placed, [*heard[1:], None], strict=True)
    ]
    # where a whole run could as well lie elsewhere, saying so once is enough
    return tuple(
        replace(note, doubt="") if note.doubt.startswith(EQUAL) and before.doubt.startswith(EQUAL) else note
        for before, note in zip([Note(0, 1, 1, 0), *notes], notes, strict=False)
    )


def _sounding(one: Heard) -> Sounding:
    size = one.reading.bend_semitones
    return Sounding(one.onset_s, one.offset_s, one.fretted_midi, one.strike, size, one.tone)


def _note(one: Heard, found: Placed, following: Heard | None) -> Note:
    runs_on = following is not None and following.strike in LEGATO_STRIKES and following.onset_s - one.offset_s < 0.05
    certainty, doubt = _certainty(one, found)
    return Note(
        one.onset_s,
        one.offset_s,
        found.place.string,
        found.place.fret,
        one.strike,
        one.curve,
        one.vibrato,
        End.RUNS_ON if runs_on else one.end,
        one.tone,
        raked=one.raked,
        finger=found.finger,
        certainty=certainty,
        doubt=doubt,
    )


def _certainty(one: Heard, found: Placed) -> tuple[float, str]:
    """How sure the note is, and the first reason to doubt it."""
    size = abs(one.reading.bend_semitones)
    certainty = float(np.clip(0.35 + 0.65 * one.voicing, 0.05, 0.98))
    doubt = ""
    if one.voicing < DOUBT_BELOW:
        doubt = f"weak pitch: only {one.voicing:.0%} periodic"
    elif 0.6 < size < 0.85:
        doubt = f"bend of {size * 100:.0f} cents: between a quarter and a half step"
    elif abs(one.plateau_cents) > 30:
        doubt = f"{one.plateau_cents:+.0f} cents off its fret"
    elif len(found.alternatives) > 1 and found.alternatives[1][1] < EQUAL_PLACES_COST:
        other = _place_words(found.alternatives[1][0])
        doubt = f"{EQUAL}: also {other}"
        return min(certainty, 0.9), doubt
    return (min(certainty, 0.6) if doubt else certainty), doubt


def _place_words(where: Place) -> str:
    return f"string {where.string} fret {where.fret}"


def _pulse_flux(clip: Clip, sound: FloatArray, onsets: OnsetCurve, focus: str) -> FloatArray:
    """Strikes of everything that plays: the band keeps the beat better than the lead."""
    if clip.channels == 1 or focus in ("mid", "left", "right"):
        return onsets.flux
    whole = resampled(focused(clip, "mid"), from_rate=clip.sample_rate, to_rate=RATE)
    return onset_curve(whole).flux
