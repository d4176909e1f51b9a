"""A solo as a standard MIDI file: one channel a string, every curve as pitch bend, tempo and meters as they are.

Sources: "MIDI 1.0 Detailed Specification" 4.2, MMA 1996: a pitch bend is 14 bits about 8192; registered parameter 0
sets its range in semitones and cents (controllers 101, 100, 6, 38); "Standard MIDI Files 1.0", MMA 1988: tempo, time
signature, marker, cue and text events; "General MIDI System Level 1", MMA 1991: channel 10 is drums, program 28 a clean
electric guitar.
"""

import io
from dataclasses import dataclass
from itertools import pairwise

import mido
import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.errors import NotcherError
from notcher.core.hearing import EMPTY_TRACK, PitchTrack
from notcher.core.score import BeatMap, Note, Score, Tone

TICKS_PER_QUARTER = 960  # divides by 2 to 6 and 8; .5 ms at 120 bpm
CLEAN_GUITAR = 27
"""General MIDI's program 28, counted from 0."""
CHANNELS = (0, 1, 2, 3, 4, 5, 6, 7)
"""Of each string, the highest first; the tenth is drums and stays free."""
BEND_RANGE, WIDE_RANGE = 12, 24
"""Semitones that a bend may reach: enough for a hand, and for the bar."""
BEND_MIDDLE, BEND_MOST = 8192, 8191  # MIDI 1.0: 14 bits, middle 2000h
MOST_STEPS = 12_000  # of one note: a minute of them; a longer note is told more coarsely
STEP_S = 0.005  # between bend values: finer than a wave of 7 Hz needs, and no flood
USUAL_VELOCITY, SOFT, LOUD = 96, 40, 120  # mezzo-forte, a muted note, an accent (common practice, no source)
LEVEL_SPAN_DB = 30.0
"""From the softest note that is told apart to the loudest."""
BEGIN, BAR_1, PICKUP, SECTION = "recording starts here", "bar 1 starts here", "pickup, quarters: ", "section: "
"""Cues: where the recording's time 0 lies, before which stands what is missing of the first bar; where bars are
counted from; how much of a bar stands before that; what a section is called."""
CHORD, TUNING = "chord: ", "open strings: "
"""A text: the open strings as MIDI numbers, the highest first; the capo's fret; cents from A = 440 Hz."""
USUAL_BPM = 60.0  # where no beat is known: a quarter a second
LONGEST_QUARTER_US = 2**24 - 1
"""Microseconds: a tempo is written in three bytes."""


@dataclass(frozen=True, slots=True)
class _Clock:
    """Seconds of the recording as ticks of the file: tick 0 is the bar line at or before the recording begins."""

    beat_map: BeatMap
    first: float  # quarter of tick 0

    def ticks(self, time_s: float) -> int:
        return int(self.ticks_at(np.array([time_s]))[0])

    def ticks_at(self, times_s: FloatArray) -> IntArray:
        quarters = self.beat_map.quarter_at(times_s)
        ticks: IntArray = np.maximum(0, np.rint((quarters - self.first) * TICKS_PER_QUARTER)).astype(np.int64)
        return ticks


def midi_bytes(score: Score, track: PitchTrack = EMPTY_TRACK) -> bytes:
    """Return a solo as a MIDI file of format 1; without a beat map it is counted at 60 beats a minute.

    track: what was measured; velocities follow its level where there is one.
    """
    beat_map = score.beat_map if score.beat_map.known else BeatMap.steady(USUAL_BPM, 0.0)
    first_s = min([0.0, *(note.onset_s for note in score.notes)])
    first = min(0.0, beat_map.bar_start(beat_map.bar_at(beat_map.quarter(first_s))))
    clock = _Clock(beat_map, first)
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS_PER_QUARTER)
    file.tracks.append(_track(_conductor(score, clock)))
    levels = _velocities(score, track)
    for string in range(1, score.tuning.strings + 1):
        file.tracks.append(_track(_string(score, string, clock, levels)))
    stream = io.BytesIO()
    file.save(file=stream)
    return stream.getvalue()


Event = tuple[int, int, mido.Message]
"""When, in ticks; its place among what comes at once; what."""


def _track(events: list[Event]) -> mido.MidiTrack:
    """Events in order, each after the time since the one before."""
    track, now = mido.MidiTrack(), 0
    for at, _, message in sorted(events, key=lambda event: event[:2]):
        track.append(message.copy(time=at - now))
        now = at
    track.append(mido.MetaMessage("end_of_track", time=0))
    return track


def _conductor(score: Score, clock: _Clock) -> list[Event]:
    """Title, tempi, meters, phrases and sections as markers, chords as text."""
    beat_map = clock.beat_map
    events: list[Event] = [
        (0, 0, mido.MetaMessage("track_name", name=_plain(score.title or "Untitled solo"))),
        (clock.ticks(0.0), 5, mido.MetaMessage("cue_marker", text=BEGIN)),
        (round(-clock.first * TICKS_PER_QUARTER), 5, mido.MetaMessage("cue_marker", text=BAR_1)),
    ]
    if beat_map.pickup:
        events.append((0, 5, mido.MetaMessage("cue_marker", text=f"{PICKUP}{beat_map.pickup:g}")))
    for change in beat_map.meters:
        start = beat_map.bar_start(change.bar)
        at = 0 if change.bar == 1 else max(0, round((start - clock.first) * TICKS_PER_QUARTER))
        clocks = round(24 * change.meter.beat_quarters)  # of a felt beat, as the metronome clicks
        counted = {"numerator": change.meter.beats, "denominator": change.meter.unit}
        events.append((at, 1, mido.MetaMessage("time_signature", clocks_per_click=min(255, clocks), **counted)))
    anchors = beat_map.anchors
    for number, ((a_s, a), (b_s, b)) in enumerate(pairwise(anchors)):
        at = 0 if number == 0 else max(0, round((a - clock.first) * TICKS_PER_QUARTER))
        tempo = round(1e6 * (b_s - a_s) / (b - a))
        if tempo > LONGEST_QUARTER_US:
            raise NotcherError(
                f"A quarter note at {a_s:.1f} s lasts {tempo / 1e6:.0f} s, and MIDI counts none longer than "
                f"{LONGEST_QUARTER_US / 1e6:.1f} s.",
                "Tap the beat there, or write another format.",
            )
        events.append((at, 2, mido.MetaMessage("set_tempo", tempo=tempo)))
    tuning = score.tuning
    opens = " ".join(f"{midi:g}" for midi in tuning.open_midi)
    text = f"{TUNING}{opens}; capo {tuning.capo}; cents {tuning.offset_cents:g}"
    events.append((0, 7, mido.MetaMessage("text", text=text)))
    for section in score.sections:
        cue = SECTION + _plain(section.name or "Section")
        events.append((clock.ticks(section.start_s), 3, mido.MetaMessage("cue_marker", text=cue)))
    for phrase in score.phrases:
        events.append(
            (clock.ticks(phrase.start_s), 4, mido.MetaMessage("marker", text=_plain(phrase.name or "Phrase")))
        )
    for chord in score.chords:
        at = clock.ticks(max(0.0, chord.start_s))
        events.append((at, 6, mido.MetaMessage("text", text=CHORD + _plain(chord.name))))
    return events


def _plain(text: str) -> str:
    """A text in the Latin letters that the format has."""
    return text.replace("♯", "#").replace("♭", "b").encode("latin-1", errors="replace").decode("latin-1")


def _velocities(score: Score, track: PitchTrack) -> list[int]:
    """How hard each note is struck, 1 to 127: by its loudest measured moment against the loudest of all."""
    if not track.times_s.size:
        return [USUAL_VELOCITY - 30 * (note.tone is Tone.DEAD or note.garnish) for note in score.notes]
    peaks = []
    for note in score.notes:
        inside = (track.times_s >= note.onset_s - 0.01) & (track.times_s < note.onset_s + 0.15)
        peaks.append(float(track.level_db[inside].max()) if inside.any() else np.nan)
    loudest = float(np.nanmax(peaks)) if np.isfinite(peaks).any() else 0.0
    shares = [1.0 if np.isnan(peak) else 1.0 + (peak - loudest) / LEVEL_SPAN_DB for peak in peaks]
    return [round(SOFT + (LOUD - SOFT) * min(max(share, 0.0), 1.0)) for share in shares]


def _string(score: Score, string: int, clock: _Clock, velocities: list[int]) -> list[Event]:
    """One string's channel: its range, its notes, and how their pitch moves."""
    channel = CHANNELS[string - 1]
    notes = [(note, velocities[index]) for index, note in enumerate(score.notes) if note.string == string]
    span = _range(score, [note for note, _ in notes])
    events: list[Event] = [
        (0, 0, mido.MetaMessage("track_name", name=f"string {string}")),
        (0, 1, mido.Message("program_change", channel=channel, program=CLEAN_GUITAR)),
    ]
    for number, (control, value) in enumerate(((101, 0), (100, 0), (6, span), (38, 0), (101, 127), (100, 127))):
        events.append((0, 2 + number, mido.Message("control_change", channel=channel, control=control, value=value)))
    for note, velocity in notes:
        events += _note(score, note, velocity, channel, span, clock)
    return events


def _range(score: Score, notes: list[Note]) -> int:
    """Semitones that the string's bends have to reach."""
    if any(abs(float(_bend_at(score, note, np.zeros(1))[0])) > BEND_RANGE - 1 for note in notes):
        return WIDE_RANGE
    widest = max((abs(bend) for note in notes for _, bend in note.curve.points), default=0.0)
    return WIDE_RANGE if widest > BEND_RANGE - 5 else BEND_RANGE


def _bend_at(score: Score, note: Note, since_s: FloatArray) -> FloatArray:
    """How far a note's pitch is from the key it is written on, semitones, at times after its onset; shape kept."""
    return score.pitch_at(note, since_s) + score.tuning.offset_cents / 100 - round(score.sounding_midi(note))


def _note(score: Score, note: Note, velocity: int, channel: int, span: int, clock: _Clock) -> list[Event]:
    begin, end = clock.ticks(note.onset_s), max(clock.ticks(note.offset_s), clock.ticks(note.onset_s) + 1)
    key = min(127, max(0, round(score.sounding_midi(note))))
    since_s = np.arange(0.0, note.duration_s, max(STEP_S, note.duration_s / MOST_STEPS))
    # a bend holds until the next: it is that of the step's middle; at the stroke itself it is exact
    middles_s = np.where(since_s > 0, since_s + STEP_S / 2, 0.0)
    bends = np.clip(np.rint(_bend_at(score, note, middles_s) / span * BEND_MIDDLE), -BEND_MIDDLE, BEND_MOST)
    ats = clock.ticks_at(note.onset_s + since_s)
    told = (np.diff(bends, prepend=np.nan) != 0) & (ats < end)
    events: list[Event] = [
        (at, 10, mido.Message("pitchwheel", channel=channel, pitch=int(bend)))
        for at, bend in zip(ats[told].tolist(), bends[told].tolist(), strict=True)
    ]
    events.append((begin, 11, mido.Message("note_on", channel=channel, note=key, velocity=max(1, velocity))))
    # a note ends before the next of its string begins at the same tick
    events.append((end, 8, mido.Message("note_off", channel=channel, note=key, velocity=64)))
    return events
