"""A stretch of the recording that goes round without a seam, at any pace, after a count-in."""

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Progress, never_cancelled, no_progress
from notcher.core.score import BeatMap
from notcher.core.sound import Clip, stretched
from notcher.core.synthesis import click

SHORTEST_S = 0.05
SEAM_S = 0.012  # long enough for no click, too short for an echo
AHEAD_S = 0.4  # of sound that is there when a loop underway begins: what follows is made meanwhile
BEFORE_S = 0.001  # a count-in's click lies at least this before what it leads into
COUNT_WITHOUT_BEATS = (4, 0.6)  # clicks, seconds apart at full pace


class Loop:
    """What goes round, from its start or entered in its middle, and plays while it is still being made.

    `prepare` runs off the UI thread and fills it in the order in which it is heard: from the entry to the end, then
    from the start to the entry; what it has not reached is silent. count_in: shape (n, 2), float32, heard once.
    start_s, end_s, at_s: seconds of the recording, clipped to it; at_s is where it is entered, the start if not given.
    pace: 0.25..1.5 of the recorded tempo, pitch kept. entry, length: in samples of what is heard.
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
        self._fade = min(round(SEAM_S * clip.sample_rate), self.entry or self.length // 2, self.length - self.entry)
        # from the entry on, and before it; each reaches over its end, to be faded into the other
        self._after, self._before = (
            np.zeros((round(part.samples.shape[0] / pace), clip.channels), dtype=np.float32) for part in self._parts
        )
        self._opening = self._after[:0]  # the first samples of the first pass: they fade in

    def prepare(self, progress: Progress = no_progress, cancelled: CancelCheck = never_cancelled) -> None:
        """Fill the loop. Raises: Cancelled."""
        rise = np.linspace(0, 1, self._fade, endpoint=False, dtype=np.float32)[:, None]
        turn = self.length - self.entry
        enough = self.entry == 0 or turn >= round(AHEAD_S * self.sample_rate)

        def begun(share: float) -> None:
            if self._opening.shape[0] == 0:
                self._opening = self._after[: self._fade] * rise
            if enough:  # else it is over before what comes after it is there
                progress(0.5 * share)

        self._stretch(self._parts[0], self._after, begun, cancelled)
        over_end = self._after[turn:][: self._fade]
        if over_end.shape[0] < self._fade:  # the recording ends here: fade its last moment out
            self._after[turn - self._fade : turn] *= 1 - rise
            over_end = over_end[:0]
        if self.entry == 0:
            self._join(self._after, over_end, rise)
            progress(1.0)
            return
        joined: list[bool] = []

        def goes_on(share: float) -> None:
            if not joined:
                joined.append(True)
                self._join(self._before, over_end, rise)
            progress(0.5 + 0.5 * share)

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
        result = _stereo(self.parts(first, count)).copy()
        lead = self.count_in[first : first + count]
        result[: lead.shape[0]] = lead
        return result

    def parts(self, first: int, count: int) -> FloatArray:
        """Return the same channel by channel, silent where it is counted in; shape (count, channels)."""
        result = np.zeros((count, self._after.shape[1]), dtype=np.float32)
        position = max(0, min(count, self.count_in.shape[0] - first))
        while position < count:
            part = self._from(first + position - self.count_in.shape[0])[: count - position]
            result[position : position + part.shape[0]] = part
            position += max(1, part.shape[0])  # rounding may leave the recording's end a sample short
        return result

    def _from(self, since: int) -> FloatArray:
        """The samples from a position after the count-in up to the end of the piece it lies in."""
        if since < self._opening.shape[0]:
            return self._opening[since:]
        at, turn = since % self.length, self.length - self.entry
        return self._after[at:turn] if at < turn else self._before[at - turn : self.entry]

    def time_at(self, position: int) -> float:
        """Return the second of the recording that sounds at a sample; before the start during the count-in."""
        since = position - self.count_in.shape[0]
        into = since if since < 0 else (since + self.entry) % self.length
        return float(self.start_s + into / self.sample_rate * self.pace)

    def ended_at(self, position: int) -> bool:
        """Never: a loop goes on."""
        return False

    def pass_at(self, position: int) -> int:
        """Return how often the loop has begun, its entry counted, 0 during the count-in."""
        since = position - self.count_in.shape[0]
        return 0 if since < 0 else (since + self.entry) // self.length + 1


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

    def prepare(self, progress: Progress = no_progress, cancelled: CancelCheck = never_cancelled) -> None:
        """Fill the passage from its beginning. Raises: Cancelled."""
        stretched(
            self._part, self.pace, semitones=self._semitones, into=self._sound, progress=progress, cancelled=cancelled
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

    def ended_at(self, position: int) -> bool:
        return position >= len(self._sound)


class Gapped:
    """A loop with a rest after each round. gap_s: seconds of silence."""

    def __init__(self, loop: Loop, gap_s: float) -> None:
        self.loop, self.sample_rate = loop, loop.sample_rate
        self.count_in, self._entry, self._length = loop.count_in, loop.entry, loop.length
        self._gap = round(gap_s * loop.sample_rate)
        self._fade = min(round(SEAM_S * loop.sample_rate), self._length // 2)

    def _place(self, position: int) -> tuple[int, int]:
        """Of a position after the count-in: the round, from 0, and how far it is in it, with its rest."""
        turn, into = divmod(position - self.count_in.shape[0] + self._entry, self._length + self._gap)
        return int(turn), int(into)

    def parts(self, first: int, count: int) -> FloatArray:
        """Return samples channel by channel, shape (count, channels)."""
        pieces: list[FloatArray] = []
        at, end, lead = first, first + count, self.count_in.shape[0]
        while at < end:
            if at < lead:
                take = min(end, lead) - at
                pieces.append(self.loop.parts(at, take))
                at += take
                continue
            turn, into = self._place(at)
            if into < self._length:
                take = min(end - at, self._length - into)
                inside = lead + turn * self._length + into - self._entry
                piece = self.loop.parts(inside, take).copy()
                places = np.arange(into, into + take)
                out = np.clip((self._length - places) / max(1, self._fade), 0, 1)
                rise = np.clip(places / max(1, self._fade), 0, 1) if turn else np.ones(take)
                pieces.append((piece * (out * rise)[:, None]).astype(np.float32))
            else:
                take = min(end - at, self._length + self._gap - into)
                pieces.append(
                    np.zeros((take, pieces[-1].shape[1] if pieces else self.loop.parts(0, 1).shape[1]), np.float32)
                )
            at += take
        return np.concatenate(pieces) if pieces else self.loop.parts(first, 0)

    def read(self, first: int, count: int) -> FloatArray:
        """Return samples with the count-in, shape (count, 2)."""
        result = _stereo(self.parts(first, count)).copy()
        lead = self.count_in[first : first + count]
        result[: lead.shape[0]] = lead
        return result

    def time_at(self, position: int) -> float:
        """Return the second of the recording that sounds at a sample; during a rest the end."""
        if position < self.count_in.shape[0]:
            return self.loop.time_at(position)
        _, into = self._place(position)
        return self.loop.start_s + min(into, self._length) / self.sample_rate * self.loop.pace

    def ended_at(self, position: int) -> bool:
        """Never: a loop goes on."""
        return False

    def pass_at(self, position: int) -> int:
        """Return how often the loop has begun, 0 during the count-in; a rest belongs to the round before."""
        return 0 if position < self.count_in.shape[0] else self._place(position)[0] + 1


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
    """Return one bar of clicks on the beats before a start, the bar's first higher; shape (n, 2).

    start_s: in the recording. pace: of the recorded tempo. The clicks end where the stretch begins.
    """
    if beat_map.known:
        start = beat_map.quarter(start_s)
        bar_start_s = beat_map.time(start - beat_map.meter_at(start).quarters)
        beats = beat_map.beats_between(bar_start_s, start_s)
        beats = [beat for beat in beats if beat.time_s < start_s - BEFORE_S]  # the stretch begins with its own
        times_s = (np.array([beat.time_s for beat in beats]) - bar_start_s) / pace
        length_s = (start_s - bar_start_s) / pace
        firsts = np.array([beat.beat == 1 for beat in beats])
    else:
        count, apart_s = COUNT_WITHOUT_BEATS
        times_s, length_s = np.arange(count, dtype=np.float64) * (apart_s / pace), count * apart_s / pace
        firsts = np.arange(count) == 0
    sound = np.zeros((round(length_s * sample_rate), 2), dtype=np.float32)
    for time_s, is_first in zip(times_s, firsts, strict=True):
        at = max(0, round(float(time_s) * sample_rate))
        tick = click(sample_rate, high=bool(is_first))[: sound.shape[0] - at]
        sound[at : at + tick.shape[0]] += tick
    return sound
