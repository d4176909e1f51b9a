"""Where the beats are: anchors between seconds and quarter notes, straight between them; bars, meters, pickup, swing.

Positions are counted in quarter notes whatever the meter; quarter 0 is the first beat of bar 1. What is counted,
clicked and shown as a tempo are felt beats, see `Meter`.
"""

import math
from bisect import bisect_right
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from notcher.core.arrays import FloatArray, IntArray
from notcher.core.score.limits import LAST_QUARTER, LAST_S, MOST_ANCHORS, MOST_BARS, MOST_PARTS, check_count
from notcher.core.score.meter import FOUR_FOUR, Meter

TEMPO_RANGE = (10.0, 600.0)
"""Felt beats a minute that somebody may mean."""
MOST_SWING = 0.8  # a dotted eighth and a sixteenth are 0.75
QUARTERS_PER_S = 1e-3, 40.0
"""Between two anchors, from a pause of a quarter of an hour to 2,400 a minute: no bar of anything lies outside."""
SLACK = 1e-9  # as numbers round


@dataclass(frozen=True, slots=True)
class MeterChange:
    """A meter that holds from a bar on; bars count from 1."""

    bar: int
    meter: Meter


@dataclass(frozen=True, slots=True)
class Swing:
    """A stretch that is swung, in quarters from quarter 0; share: how much of the beat its first eighth takes."""

    start: float
    end: float
    share: float = 2 / 3

    def __post_init__(self) -> None:
        if not (self.start < self.end and 0.5 <= self.share <= MOST_SWING):
            raise ValueError(f"no such swing: {self}")


@dataclass(frozen=True, slots=True)
class FeltBeat:
    """One felt beat: when, its bar and its number in the bar (both from 1; a pickup lies in bar 0)."""

    time_s: float
    bar: int
    beat: int


@dataclass(frozen=True, slots=True)
class BeatMap:
    """Anchors (seconds, quarter) in rising order; fewer than two: no beat map known.

    meters: the first holds from bar 1 on, and before it. pickup: quarters of an incomplete bar before bar 1.
    """

    anchors: tuple[tuple[float, float], ...] = ()
    meters: tuple[MeterChange, ...] = (MeterChange(1, FOUR_FOUR),)
    pickup: float = 0.0
    swings: tuple[Swing, ...] = ()

    def __post_init__(self) -> None:
        check_count(self.anchors, MOST_ANCHORS, "anchors of its beats")
        check_count(self.meters, MOST_PARTS, "changes of meter")
        check_count(self.swings, MOST_PARTS, "swung stretches")
        if not (np.abs(np.array(self.anchors).reshape(-1, 2)) <= (LAST_S, LAST_QUARTER)).all():
            raise ValueError("the beats must lie at times within the hour")
        if not all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(self.anchors)):
            raise ValueError("the beats must run forwards: times and beats must both rise")
        slowest, fastest = QUARTERS_PER_S
        if not all(slowest < (b[1] - a[1]) / (b[0] - a[0]) < fastest for a, b in pairwise(self.anchors)):
            raise ValueError("nobody counts so slowly or so fast")
        if not self.meters or self.meters[0].bar != 1 or any(a.bar >= b.bar for a, b in pairwise(self.meters)):
            raise ValueError("meters hold from bar 1 on, each later than the one before")
        if not 0 <= self.pickup < self.meter.quarters:
            raise ValueError(f"a pickup is shorter than a bar: {self.pickup} quarters")
        if any(a.end > b.start + SLACK for a, b in pairwise(self.swings)):
            raise ValueError("swung stretches follow each other")
        if self.known and self.bar_at(self.quarter(LAST_S)) - self.bar_at(self.quarter(0.0)) > MOST_BARS:
            raise ValueError("nobody counts bars so fast")

    @classmethod
    def steady(
        cls, tempo_bpm: float, first_beat_s: float, meter: Meter = FOUR_FOUR, *, pickup: float = 0.0
    ) -> "BeatMap":
        """Return an even beat map. tempo_bpm: felt beats. first_beat_s: of bar 1.

        Raises: ValueError for a tempo outside `TEMPO_RANGE`.
        """
        if not TEMPO_RANGE[0] <= tempo_bpm <= TEMPO_RANGE[1]:
            raise ValueError(f"no tempo: {tempo_bpm} beats a minute")
        anchors = ((first_beat_s, 0.0), (first_beat_s + 60.0 / tempo_bpm, meter.beat_quarters))
        return cls(anchors, (MeterChange(1, meter),), pickup)

    # --- time ---
    @property
    def known(self) -> bool:
        return len(self.anchors) >= 2

    @property
    def tempo_bpm(self) -> float | None:
        """Felt beats of the first meter a minute, over all anchors; None without a beat map."""
        if not self.known:
            return None
        (first_s, first), (last_s, last) = self.anchors[0], self.anchors[-1]
        return 60.0 * (last - first) / (last_s - first_s) / self.meter.beat_quarters

    def tempo_at(self, time_s: float) -> float:
        """Return the tempo around a time, in felt beats of the meter there a minute. Raises: ValueError."""
        at = self.quarter(time_s)
        felt = self.meter_at(at).beat_quarters
        return 120.0 / (self.time(at + felt) - self.time(at - felt))

    @property
    def first_beat_s(self) -> float | None:
        """Seconds of bar 1; None without a beat map."""
        return self.time(0.0) if self.known else None

    def quarter(self, time_s: float) -> float:
        """Return the quarter at a time. Raises: ValueError without beats."""
        return float(self.quarter_at(np.array([time_s]))[0])

    def time(self, quarter: float) -> float:
        """Return the seconds of a quarter. Raises: ValueError without beats."""
        return float(self.time_at(np.array([quarter]))[0])

    def felt(self, quarter: float) -> float:
        """Return a quarter's position in felt beats from bar 1 on, whatever the meters."""
        return float(self.felt_at(np.array([quarter]))[0])

    def quarter_of(self, felt: float) -> float:
        """Return the quarter of a position that is counted in felt beats from bar 1 on."""
        return float(self.quarter_of_felt(np.array([felt]))[0])

    def quarter_at(self, times_s: FloatArray) -> FloatArray:
        """Return the quarter of each time; before and after the anchors at the nearest stretch's tempo."""
        return self._mapped(times_s, 0, 1)

    def time_at(self, quarters: FloatArray) -> FloatArray:
        """Return the seconds of each quarter."""
        return self._mapped(quarters, 1, 0)

    def _mapped(self, values: FloatArray, source: int, target: int) -> FloatArray:
        if not self.known:
            raise ValueError("there are no beats yet: tap or set two")
        anchors = np.array(self.anchors)
        source_values, wanted = anchors[:, source], anchors[:, target]
        slopes = np.diff(wanted) / np.diff(source_values)
        piece = np.clip(np.searchsorted(source_values, values, side="right") - 1, 0, slopes.size - 1)
        return np.asarray(wanted[piece] + (np.asarray(values) - source_values[piece]) * slopes[piece])

    # --- bars ---
    @property
    def meter(self) -> Meter:
        """The meter it begins in."""
        return self.meters[0].meter

    def _starts(self) -> list[float]:
        """The quarter at which each meter begins."""
        starts = [0.0]
        for before, after in pairwise(self.meters):
            starts.append(starts[-1] + (after.bar - before.bar) * before.meter.quarters)
        return starts

    def _change_at(self, quarter: float) -> tuple[float, MeterChange]:
        starts = self._starts()
        at = max(0, bisect_right(starts, quarter + SLACK) - 1)
        return starts[at], self.meters[at]

    def meter_at(self, quarter: float) -> Meter:
        """Return the meter that holds at a quarter."""
        return self._change_at(quarter)[1].meter

    def bar_at(self, quarter: float) -> int:
        """Return the number of the bar that holds a quarter; 0 and less before bar 1."""
        start, change = self._change_at(quarter)
        return change.bar + int(np.floor((quarter - start) / change.meter.quarters + SLACK))

    def bar_start(self, bar: int) -> float:
        """Return the quarter at which a bar begins; bar 0 as if it were whole."""
        at = max(0, bisect_right([change.bar for change in self.meters], bar) - 1)
        change = self.meters[at]
        return self._starts()[at] + (bar - change.bar) * change.meter.quarters

    def bar_meter(self, bar: int) -> Meter:
        """Return a bar's meter."""
        return self.meter_at(self.bar_start(bar))

    # --- felt beats ---
    def beat_before(self, time_s: float) -> float:
        """Return when the felt beat begins that a time lies in, seconds; the beats must be known."""
        return self.time(self.quarter_of(math.floor(self.felt(self.quarter(time_s)) + SLACK)))

    def felt_at(self, quarters: FloatArray) -> FloatArray:
        """Return positions counted in felt beats from bar 1 on, whatever the meters; shape kept."""
        return self._counted(quarters, to_felt=True)

    def quarter_of_felt(self, felt: FloatArray) -> FloatArray:
        """Return the quarters of positions that are counted in felt beats from bar 1 on; shape kept."""
        return self._counted(felt, to_felt=False)

    def _counted(self, values: FloatArray, *, to_felt: bool) -> FloatArray:
        quarters = np.array(self._starts())
        sizes = np.array([change.meter.beat_quarters for change in self.meters])
        felt = np.concatenate([[0.0], np.cumsum(np.diff(quarters) / sizes[:-1])])
        source_values, wanted = (quarters, felt) if to_felt else (felt, quarters)
        piece = np.clip(np.searchsorted(source_values, np.asarray(values) + SLACK, side="right") - 1, 0, None)
        slopes = 1 / sizes if to_felt else sizes
        return np.asarray(wanted[piece] + (np.asarray(values) - source_values[piece]) * slopes[piece])

    def bars_and_beats(self, felt: FloatArray) -> tuple[IntArray, IntArray]:
        """Return the bars and the beats in them, from 1, of whole felt beats counted from bar 1 on; shape kept."""
        quarters = self.quarter_of_felt(felt)
        starts = np.array(self._starts())
        piece = np.clip(np.searchsorted(starts, quarters + SLACK, side="right") - 1, 0, None)
        firsts = np.array([change.bar for change in self.meters])[piece]
        lengths = np.array([change.meter.quarters for change in self.meters])[piece]
        sizes = np.array([change.meter.beat_quarters for change in self.meters])[piece]
        bars = np.floor((quarters - starts[piece]) / lengths + SLACK)
        beats = np.rint((quarters - starts[piece] - bars * lengths) / sizes) + 1
        return (firsts + bars).astype(np.int64), beats.astype(np.int64)

    def bar_and_beat(self, felt: float) -> tuple[int, int]:
        """Return the bar and the beat in it, from 1, of a whole felt beat counted from bar 1 on."""
        bars, beats = self.bars_and_beats(np.array([felt]))
        return int(bars[0]), int(beats[0])

    def beats_between(self, start_s: float, end_s: float, *, bars_only: bool = False, every: int = 1) -> list[FeltBeat]:
        """Return the felt beats of a span, in order.

        bars_only: only each bar's first. every: of those only bars 1, 1 + every, … and as far apart before.
        """
        if not self.known:
            return []
        first, last = self.felt_at(self.quarter_at(np.array([start_s, end_s])))
        felt = np.arange(np.ceil(first - SLACK), np.floor(last + SLACK) + 1)
        bars, beats = self.bars_and_beats(felt)
        if bars_only:
            wanted = (beats == 1) & ((bars - 1) % every == 0)
            felt, bars, beats = felt[wanted], bars[wanted], beats[wanted]
        times_s = self.time_at(self.quarter_of_felt(felt))
        return [FeltBeat(*place) for place in zip(times_s.tolist(), bars.tolist(), beats.tolist(), strict=True)]

    def swing_at(self, quarter: float) -> float:
        """Return how much of the beat the first eighth takes at a quarter: 0.5 where nothing is swung."""
        inside = (swing.share for swing in self.swings if swing.start - SLACK <= quarter < swing.end - SLACK)
        return next(inside, 0.5)

    # --- other beat maps ---
    def moved(self, by_s: float) -> "BeatMap":
        """Return the beat map that many seconds later."""
        return replace(self, anchors=tuple((time_s + by_s, quarter) for time_s, quarter in self.anchors))

    def with_meter(self, bar: int, meter: Meter, *, until: int | None = None) -> "BeatMap":
        """Return the beat map with another meter from a bar on, up to the next change; or only up to a bar.

        Raises: ValueError for a bar below 1, or a pickup that fills the new first bar.
        """
        after = None if until is None else self.bar_meter(until)
        changes = {change.bar: change.meter for change in self.meters if until is None or not bar < change.bar < until}
        changes[bar] = meter
        if until is not None and after is not None:
            changes.setdefault(until, after)
        meter_changes: list[MeterChange] = []
        for at in sorted(changes):
            if not meter_changes or meter_changes[-1].meter != changes[at]:
                meter_changes.append(MeterChange(at, changes[at]))
        return replace(self, meters=tuple(meter_changes))


NO_BEAT_MAP = BeatMap()
