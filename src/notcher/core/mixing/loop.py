"""A stretch of the recording that goes round without a seam, at any pace, after a count-in."""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor, wait

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Progress, never_cancelled, no_progress
from notcher.core.score import BeatMap, count_in_of
from notcher.core.sound import Clip, stretched
from notcher.core.synthesis import click

SHORTEST_S = 0.05
SEAM_S = 0.012  # long enough for no click, too short for an echo
AHEAD_S = 0.4  # of sound that is there when a loop underway begins: what follows is made meanwhile


class Loop:
    """What goes round, from its start or entered in its middle, and plays while it is still being made.

    `prepare` runs off the UI thread and fills it in the order in which it is heard: from the entry to the end, then
    from the start to the entry; what it has not reached is silent. count_in: shape (n, 2), float32, heard before the
    first round, or before each if count_each. start_s, end_s, at_s: seconds of the recording, clipped to it; at_s is
    where it is entered, the start if not given. pace: 0.25..1.5 of the recorded tempo, pitch kept. rest_s: seconds of
    silence after each round. entry, length, period: in samples of what is heard; the period is the round with its rest
    and what counts in the next.
    Raises: ValueError when nothing lies between the two.
    """

    def __init__(
        self,
        clip: Clip,
        start_s: float,
        end_s: float,
        *,
        pace: float = 1.0,
        at_s: float | None = None,
        count_in: FloatArray | None = None,
        count_each: bool = False,
        rest_s: float = 0.0,
        semitones: float = 0.0,
    ) -> None:
        start_s, end_s = max(start_s, 0.0), min(end_s, clip.duration_s)
        if end_s - start_s < SHORTEST_S:
            raise ValueError(f"a loop needs at least {1000 * SHORTEST_S:.0f} ms")
        self._semitones = semitones
        self.sample_rate, self.start_s, self.end_s, self.pace = clip.sample_rate, start_s, end_s, pace
        self.count_in = np.zeros((0, 2), np.float32) if count_in is None else count_in
        at_s = min(max(start_s if at_s is None else at_s, start_s), end_s - SEAM_S)
        reach_s = SEAM_S * pace
        self._parts = clip.cut(at_s, end_s + reach_s), clip.cut(start_s, at_s + reach_s)
        self.entry = round((at_s - start_s) / pace * clip.sample_rate)
        self.length = round((end_s - start_s) / pace * clip.sample_rate)
        self._lead_each = self.count_in.shape[0] if count_each else 0
        self.period = self.length + round(rest_s * clip.sample_rate) + self._lead_each
        self._fade = min(round(SEAM_S * clip.sample_rate), self.entry or self.length // 2, self.length - self.entry)
        # from the entry on, and before it; each reaches over its end, to be faded into the other
        self._after, self._before = (
            np.zeros((round(part.samples.shape[0] / pace), clip.channels), dtype=np.float32) for part in self._parts
        )
        self._opening = self._after[:0]  # the first samples of the first pass: they fade in
        self.made = 0
        """Samples from the entry on that are there."""

    def prepare(self, progress: Progress = no_progress, cancelled: CancelCheck = never_cancelled) -> None:
        """Fill the loop. Raises: Cancelled."""
        rise = np.linspace(0, 1, self._fade, endpoint=False, dtype=np.float32)[:, None]
        turn = self.length - self.entry
        enough = self.entry == 0 or turn >= round(AHEAD_S * self.sample_rate)
        joined: list[bool] = []

        def begun(share: float) -> None:
            if self._opening.shape[0] == 0:
                self._opening = self._after[: self._fade] * rise
            if enough:  # else it is over before what comes after it is there
                self.made = min(turn, int(share * self._after.shape[0]))
                progress(0.5 * share)

        def join() -> None:
            tail.result()
            over_end = self._after[turn:][: self._fade]
            if over_end.shape[0] < self._fade or self.period > self.length:  # the end, or a rest: the last fades out
                self._after[turn - self._fade : turn] *= 1 - rise[: self._after[turn - self._fade : turn].shape[0]]
                over_end = over_end[:0]
            self._join(self._before if self.entry else self._after, over_end, rise)

        def goes_on(share: float) -> None:
            if not joined:
                joined.append(True)
                join()
            self.made = turn + int(share * self.entry)
            progress(0.5 + 0.5 * share)

        with ThreadPoolExecutor(1) as beside:  # the stretcher lets other threads run
            tail = beside.submit(self._stretch, self._parts[0], self._after, begun, cancelled)
            if enough:
                wait([tail])
            if self.entry == 0:
                join()
                progress(1.0)
                return
            self._stretch(self._parts[1], self._before, goes_on, cancelled)
        self._join(self._after, self._before[self.entry :][: self._fade], rise)

    def _stretch(self, part: Clip, into: FloatArray, progress: Progress, cancelled: CancelCheck) -> None:
        stretched(part, self.pace, semitones=self._semitones, into=into, progress=progress, cancelled=cancelled)

    def _join(self, part: FloatArray, over_end: FloatArray, rise: FloatArray) -> None:
        """Let a part fade in while what comes before it fades out; where the recording ends nothing is left to fade."""
        part[: self._fade] *= rise
        part[: over_end.shape[0]] += over_end * (1 - rise[: over_end.shape[0]])

    def read(self, first: int, count: int) -> FloatArray:
        """Return samples first..first+count of the endless sound with its count-in, shape (count, 2)."""
        return _stereo(self.parts(first, count)) + self.clicks(first, count)

    def parts(self, first: int, count: int) -> FloatArray:
        """Return the recording channel by channel, silent where it is counted in or rests; shape (count, channels)."""
        result = np.zeros((count, self._after.shape[1]), dtype=np.float32)
        for at, since, length in self._stretches(first, count):
            place = since % self.period
            while length > 0 and place < self.length:
                part = self._from(since - self.entry, place)[:length]
                result[at : at + part.shape[0]] = part
                taken = max(1, part.shape[0])  # rounding may leave the recording's end a sample short
                at, since, place, length = at + taken, since + taken, place + taken, length - taken
        return result

    def clicks(self, first: int, count: int) -> FloatArray:
        """Return what counts in, where it does; shape (count, 2)."""
        result = np.zeros((count, 2), dtype=np.float32)
        lead = self.count_in[first : first + count]
        result[: lead.shape[0]] = lead
        for at, since, length in self._stretches(first, count) if self._lead_each else ():
            into = since % self.period - (self.period - self._lead_each)
            part = self.count_in[max(0, into) : max(0, into + length)]
            result[at + max(0, -into) :][: part.shape[0]] = part[: max(0, length - max(0, -into))]
        return result

    def _stretches(self, first: int, count: int) -> Iterator[tuple[int, int, int]]:
        """What is asked for, cut where periods end: its place there, the samples since the first began, its length."""
        at = max(0, min(count, self.count_in.shape[0] - first))
        while at < count:
            since = first + at - self.count_in.shape[0] + self.entry
            length = min(count - at, self.period - since % self.period)
            yield at, since, length
            at += length

    def _from(self, heard: int, place: int) -> FloatArray:
        """The samples from a place in a round up to the end of the piece it lies in. heard: since the entry."""
        if heard < self._opening.shape[0]:
            return self._opening[heard:]
        if place >= self.entry:
            return self._after[place - self.entry : self.length - self.entry]
        return self._before[place : self.entry]

    def _since(self, position: int) -> int:
        """Samples since the first round began, or would have; negative while it is counted in for the first time."""
        since = position - int(self.count_in.shape[0])
        return since + self.entry if since >= 0 else since

    def time_at(self, position: int) -> float:
        """Return the second of the recording that sounds at a sample: before the start during the count-in, the end in
        a rest."""
        since = self._since(position)
        into = since if since < 0 else since % self.period
        if into > self.period - self._lead_each:
            into -= self.period
        return float(self.start_s + min(into, self.length) / self.sample_rate * self.pace)

    def position_at(self, time_s: float) -> int:
        """Return the first sample at which a second of the recording sounds; while it is being made, below 0 if that
        comes sooner in the round than its entry, by less than half a round."""
        at = round((time_s - self.start_s) / self.pace * self.sample_rate) - self.entry
        half = self.period // 2 if self.made < self.length else 0
        return int(self.count_in.shape[0]) + (at + half) % self.period - half

    def next_round(self, position: int) -> int:
        """Return the first sample from a position on at which a round and its rest are over."""
        since, over = self._since(position), self.period - self._lead_each
        return position + (over - since if since < 0 else (over - since) % self.period)

    def ended_at(self, position: int) -> bool:
        """Never: a loop goes on."""
        return False

    def pass_at(self, position: int) -> int:
        """Return how often the loop has begun, its entry counted, 0 during the count-in; a rest belongs to the round
        before."""
        since = self._since(position)
        return 0 if since < 0 else since // self.period + 1


class LoopPassage:
    """The recording from one time on, at a pace, played while it is still being made.

    `prepare` runs off the UI thread; samples it has not reached yet are silent. origin_s: where in the recording the
    clip begins, when it is a piece of it.
    """

    def __init__(
        self, clip: Clip, start_s: float, pace: float, *, origin_s: float = 0.0, semitones: float = 0.0
    ) -> None:
        self._semitones = semitones
        self._part = clip.cut(start_s, clip.duration_s)
        self.sample_rate, self.start_s, self.pace = clip.sample_rate, origin_s + start_s, pace
        length = round(self._part.samples.shape[0] / pace)
        self._sound: FloatArray = np.zeros((length, clip.channels), dtype=np.float32)
        self.made, self.length = 0, length
        """Samples that are there, of so many."""

    def prepare(self, progress: Progress = no_progress, cancelled: CancelCheck = never_cancelled) -> None:
        """Fill the passage from its beginning. Raises: Cancelled."""

        def going(share: float) -> None:
            self.made = int(share * self._sound.shape[0])
            progress(share)

        stretched(
            self._part, self.pace, semitones=self._semitones, into=self._sound, progress=going, cancelled=cancelled
        )

    def read(self, first: int, count: int) -> FloatArray:
        """Return samples first..first+count, silent past the end, shape (count, 2)."""
        return _stereo(self.parts(first, count))

    def parts(self, first: int, count: int) -> FloatArray:
        """Return the same channel by channel, shape (count, channels)."""
        part = self._sound[first : first + count]
        return np.pad(part, ((0, count - part.shape[0]), (0, 0)))

    def time_at(self, position: int) -> float:
        """Return the second of the recording that sounds at a sample."""
        return float(self.start_s + min(position, len(self._sound)) / self.sample_rate * self.pace)

    def position_at(self, time_s: float) -> int:
        """Return the sample at which a second of the recording sounds; below 0 if that is before its beginning."""
        return round((time_s - self.start_s) / self.pace * self.sample_rate)

    def clicks(self, _first: int, count: int) -> FloatArray:
        """Nothing counts in."""
        return np.zeros((count, 2), dtype=np.float32)

    def ended_at(self, position: int) -> bool:
        return position >= len(self._sound)


class Silence:
    """Nothing, for as long as it is asked for; the playhead stands. time_s: where it stands in the recording."""

    pace, made, length = 1.0, 1, 1

    def __init__(self, sample_rate: int, time_s: float) -> None:
        self.sample_rate, self.start_s = sample_rate, time_s

    def read(self, first: int, count: int) -> FloatArray:
        return np.zeros((count, 2), dtype=np.float32)

    def parts(self, first: int, count: int) -> FloatArray:
        return np.zeros((count, 1), dtype=np.float32)

    def clicks(self, first: int, count: int) -> FloatArray:
        return np.zeros((count, 2), dtype=np.float32)

    def time_at(self, position: int) -> float:
        return self.start_s

    def ended_at(self, position: int) -> bool:
        return False


def make_loop(
    clip: Clip,
    start_s: float,
    end_s: float,
    *,
    pace: float = 1.0,
    beat_map: BeatMap | None = None,
    count_in: bool = True,
    semitones: float = 0.0,
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> Loop:
    """Return a loop that is all there, counted in by the beats if wanted. Raises: as Loop; Cancelled."""
    lead = counted_in(beat_map or BeatMap(), max(start_s, 0.0), pace, clip.sample_rate) if count_in else None
    loop = Loop(clip, start_s, end_s, pace=pace, count_in=lead, semitones=semitones)
    loop.prepare(progress, cancelled)
    return loop


def _stereo(samples: FloatArray) -> FloatArray:
    if samples.shape[1] == 1:
        return np.repeat(samples, 2, axis=1)
    return samples[:, :2]


def counted_in(beat_map: BeatMap, start_s: float, pace: float, sample_rate: int) -> FloatArray:
    """Return the clicks of `count_in_of` before a start, each bar's first higher; shape (n, 2).

    start_s: in the recording. pace: of the recorded tempo. The sound ends where the stretch begins.
    """
    counted = count_in_of(beat_map, start_s)
    sound = np.zeros((round(counted.length_s / pace * sample_rate), 2), dtype=np.float32)
    for time_s, is_first in zip(counted.clicks_s / pace, counted.firsts, strict=True):
        at = round(float(time_s) * sample_rate)
        tick = click(sample_rate, high=bool(is_first))[: max(0, sound.shape[0] - at)]
        sound[at : at + tick.shape[0]] += tick
    return sound
