"""Sound that no note claims: where it is, and what note it would be."""

from bisect import bisect_left
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from notcher.core.arrays import BoolArray, FloatArray, IntArray
from notcher.core.hearing.contour import runs
from notcher.core.hearing.evidence import Measured, snapped_to_evidence
from notcher.core.hearing.pitch import HOP_S, PitchTrack
from notcher.core.hearing.segments import Segment, with_damping
from notcher.core.neck import Place, inserted, nearest_place, places
from notcher.core.score import Note, Score

GRACE_S = 0.03  # so much of the sound around a note belongs to it
GRACE_FRAMES = round(GRACE_S / HOP_S)
LEAST_S = 0.06  # shorter sounds are noises
LONGEST_S = 12.0  # that a note is held
CLAIMS_SEMITONES = 1.2  # on each side of what a note claims; of several strings that sound it claims the one so near
FOLLOWED = 0.5  # of a second string only what is followed so surely
LEAP_SEMITONES, LEAP_FRAMES = 0.7, 3  # a quicker change is another note
FOOT = 3  # percentile: what is bent begins or ends at its lowest
FIRST_PLACE = Place(3, 12)  # the middle of the neck, where a lead begins


@dataclass(frozen=True, slots=True)
class Unclaimed:
    """A stretch of measured pitch that no note explains, as one note would. track: which string's it is, 0 the lead.

    fretted_midi: whole semitones. place: where that lives near the note before it.
    """

    track: int
    start_s: float
    end_s: float
    fretted_midi: int
    place: Place


class UnclaimedSounds:
    """All stretches that were measured and are neither written nor said not to be the solo's, in time order.

    Where they are is known at once; what note each would be only once it is asked for: in a recording of which nothing
    is written yet there are thousands.
    """

    def __init__(
        self, score: Score, measured: Measured, attacks_s: FloatArray, *, before: "UnclaimedSounds | None" = None
    ) -> None:
        """attacks_s: shape (n,), rising: a stretch is cut there, and where its pitch leaps.

        before: what was unclaimed before an edit, so that what is the same is not read again.
        """
        self._score, self.measured = score, measured
        self._rests_on: tuple[object, ...] = (measured.offset_cents, *map(id, measured.tracks))
        same = before is not None and self._rests_on == before._rests_on
        self._measured_before: dict[tuple[object, ...], tuple[int, int, int]] = (
            before._measured_before if before is not None and same else {}
        )
        self._midi = [track.midi - measured.offset_cents / 100 for track in measured.tracks]
        self._bare: dict[int, BoolArray] = {}
        self._known: dict[int, Unclaimed | None] = {}
        stretches: list[tuple[float, int, int, int]] = []
        for number, track in enumerate(measured.tracks):
            midi = self._midi[number]
            free = _free(score, track, midi, GRACE_S, any_pitch=number == 0)
            pieces = _pieces(track.times_s, midi, free, attacks_s)
            starts_s = track.times_s[[first for first, _ in pieces]] if pieces else np.zeros(0)
            rings = _ring_on(score, starts_s, midi[[first for first, _ in pieces]], attacks_s)
            stretches += [
                (float(start_s), number, first, last)
                for start_s, (first, last), on in zip(starts_s, pieces, rings, strict=True)
                if not on
            ]
        self._pieces = sorted(stretches)
        self._starts_s = [piece[0] for piece in self._pieces]

    def __len__(self) -> int:
        return len(self._pieces)

    def __iter__(self) -> Iterator[Unclaimed]:
        return iter(self.between(-np.inf, np.inf))

    def spans_s(self, start_s: float, end_s: float) -> list[tuple[float, float]]:
        """Return when the stretches sound that reach into a span of time."""
        return [(self._starts_s[at], self._ends_s(at)) for at in self._reaching(start_s, end_s)]

    def between(self, start_s: float, end_s: float) -> tuple[Unclaimed, ...]:
        """Return the stretches that reach into a span of time, as the notes they would be."""
        unclaimeds = (self._at(at) for at in self._reaching(start_s, end_s))
        return tuple(sound for sound in unclaimeds if sound is not None)

    def after(self, time_s: float) -> float | None:
        """Return when the next stretch begins after a time, round again past the last; None where there is none."""
        if not self._pieces:
            return None
        at = bisect_left(self._starts_s, time_s)
        return self._starts_s[at % len(self._pieces)]

    def _ends_s(self, at: int) -> float:
        _, number, _, last = self._pieces[at]
        return float(self.measured.tracks[number].times_s[last - 1]) + HOP_S

    def _reaching(self, start_s: float, end_s: float) -> list[int]:
        first = bisect_left(self._starts_s, start_s - LONGEST_S)
        return [at for at in range(first, bisect_left(self._starts_s, end_s)) if self._ends_s(at) >= start_s]

    def _at(self, at: int) -> Unclaimed | None:
        if at not in self._known:
            self._known[at] = self._read(*self._pieces[at][1:])
        return self._known[at]

    def _read(self, number: int, begun: int, ended: int) -> Unclaimed | None:
        """What a piece would be as a note; None where this neck does not have it."""
        track, midi, score = self.measured.tracks[number], self._midi[number], self._score
        if number not in self._bare:
            self._bare[number] = _free(score, track, midi, 0.0, any_pitch=number == 0)
        first, last, fretted = self._measure(number, begun, ended)
        if not places(fretted, score.tuning):
            return None
        start_s, end_s = float(track.times_s[first]), float(track.times_s[last - 1]) + HOP_S
        return Unclaimed(number, start_s, end_s, fretted, _beside(score, fretted, start_s))

    def _measure(self, number: int, begun: int, ended: int) -> tuple[int, int, int]:
        """First and last frame (exclusive) of a piece with what belongs to it, and its fretted pitch."""
        midi, bare = self._midi[number], self._bare[number]
        key = (number, begun, ended, bare[max(0, begun - GRACE_FRAMES) : ended + GRACE_FRAMES].tobytes())
        if key not in self._measured_before:
            first, grown = _grown(begun, ended, midi, bare)
            level_db = self.measured.tracks[number].level_db
            last = with_damping([Segment(first, grown, grown, struck=True)], level_db)[0].last
            self._measured_before[key] = first, last, round(float(np.percentile(midi[first:last], FOOT)))
        return self._measured_before[key]


NOTHING_UNCLAIMED = UnclaimedSounds(Score(), Measured(()), np.zeros(0))


def _free(score: Score, track: PitchTrack, midi: FloatArray, grace_s: float, *, any_pitch: bool) -> BoolArray:
    """Frames with a pitch that no note claims.

    grace_s: around each note. any_pitch: a note claims the lead whatever its pitch.
    """
    sounds = ~np.isnan(midi) if any_pitch else ~np.isnan(midi) & (track.voicing > FOLLOWED)
    aside = [excluded.note for excluded in score.excluded if excluded.note is not None]
    notes = [*score.notes, *aside]
    if not notes:
        return sounds
    first = np.searchsorted(track.times_s, [note.onset_s - grace_s for note in notes])
    last = np.searchsorted(track.times_s, [note.offset_s + grace_s for note in notes])
    length = last - first
    # every frame of every note, one after the other
    frames = np.arange(int(length.sum())) - np.repeat(np.cumsum(length) - length, length) + np.repeat(first, length)
    claims = np.ones(frames.size, dtype=bool)
    if not any_pitch:
        base = np.array([score.sounding_midi(note) for note in notes])
        reach = np.array([note.reading.bend_semitones for note in notes])
        low = np.repeat(base + np.minimum(reach, 0) - CLAIMS_SEMITONES, length)
        high = np.repeat(base + np.maximum(reach, 0) + CLAIMS_SEMITONES, length)
        claims = (midi[frames] > low) & (midi[frames] < high)
    sounds[frames[claims]] = False
    return sounds


def _pieces(times_s: FloatArray, midi: FloatArray, free: BoolArray, attacks_s: FloatArray) -> list[tuple[int, int]]:
    """Stretches of free frames, cut where the pitch leaps and at attacks, as first and last frame (exclusive)."""
    if not free.any():
        return []
    apart = np.abs(midi[LEAP_FRAMES:] - midi[:-LEAP_FRAMES])
    leaps = np.zeros(midi.size, dtype=bool)
    leaps[LEAP_FRAMES // 2 : LEAP_FRAMES // 2 + apart.size] = np.nan_to_num(apart) > LEAP_SEMITONES
    steady = ndimage.binary_opening(free & ~leaps, np.ones(LEAP_FRAMES, dtype=bool))
    spans = np.array(runs(steady), dtype=np.int64).reshape(-1, 2)
    cuts: IntArray = np.unique(np.searchsorted(times_s, attacks_s))
    at = np.searchsorted(spans[:, 0], cuts, side="left") - 1  # the stretch that begins before a cut
    inside = cuts[(at >= 0) & (cuts < spans[at, 1])] if spans.size else cuts[:0]
    first = np.sort(np.concatenate([spans[:, 0], inside]))
    last = np.sort(np.concatenate([spans[:, 1], inside]))
    long = (last - first) * HOP_S >= LEAST_S
    return list(zip(first[long].tolist(), last[long].tolist(), strict=True))


def _grown(first: int, last: int, midi: FloatArray, free: BoolArray) -> tuple[int, int]:
    """A piece with what of its own pitch lies within the grace of its neighbours."""
    for _ in range(GRACE_FRAMES):
        if first > 0 and free[first - 1] and abs(midi[first - 1] - midi[first]) < LEAP_SEMITONES / LEAP_FRAMES:
            first -= 1
        if last < midi.size and free[last] and abs(midi[last] - midi[last - 1]) < LEAP_SEMITONES / LEAP_FRAMES:
            last += 1
    return first, last


def _ring_on(score: Score, starts_s: FloatArray, midi: FloatArray, attacks_s: FloatArray) -> list[bool]:
    """Which stretches are only the end of a note's own sound: they go on where the note was let go, unstruck."""
    ends_s = np.sort([note.offset_s for note in score.notes])
    near = np.searchsorted(ends_s, starts_s + 2 * GRACE_S) > np.searchsorted(ends_s, starts_s - 2 * GRACE_S)
    struck = np.searchsorted(attacks_s, starts_s + GRACE_S) > np.searchsorted(attacks_s, starts_s - GRACE_S)
    return [
        bool(maybe) and not hit and _goes_on(score, float(start_s), float(pitch))
        for maybe, hit, start_s, pitch in zip(near, struck, starts_s, midi, strict=True)
    ]


def _goes_on(score: Score, start_s: float, midi: float) -> bool:
    for index in range(score.first_after(start_s - LONGEST_S), score.first_after(start_s)):
        note = score.notes[index]
        ends = float(score.pitch_at(note, note.duration_s))
        if abs(note.offset_s - start_s) < 2 * GRACE_S and abs(ends - midi) < LEAP_SEMITONES:
            return True
    return False


def _beside(score: Score, fretted_midi: int, start_s: float) -> Place:
    at = score.first_after(start_s) - 1
    near = score.notes[max(at, 0)] if score.notes else None
    where = FIRST_PLACE if near is None else Place(near.string, near.fret)
    return nearest_place(fretted_midi, score.tuning, where)


def with_claim(score: Score, sound: Unclaimed, measured: Measured, *, style: str = "position") -> tuple[Score, str]:
    """Return the score with a note written for what nobody had claimed, and its id.

    Its onset, length, pitch, bend and vibrato are as measured; the solver puts it among its neighbours.
    Raises: PlaceError when its pitch is on no string.
    """
    note = Note(sound.start_s, sound.end_s, sound.place.string, sound.place.fret)
    changed, note_id = inserted(score, note, float(sound.fretted_midi), style=style)
    return snapped_to_evidence(changed, note_id, measured), note_id
