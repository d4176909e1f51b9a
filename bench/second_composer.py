"""A second composer of seeded solos, who shares no code with the first.

Where `lead_cases` strings licks together, this one walks: a melody of scale degrees in rhythm cells, drawn to chord
tones, placed in a position that wanders; then each note of it is dressed by a hand with habits of its own (how it
bends, shakes, slides, mutes). Over- and undershoot, uneven shaking, rushing and dragging are in what is played.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from lead_cases import Case
from notcher.core.score import FLAT, TUNINGS, Attack, BeatMap, End, Note, PitchCurve, Score, Tone, Tuning, Vibrato

SCALES = (
    (0, 3, 5, 7, 10), (0, 2, 4, 7, 9), (0, 3, 5, 6, 7, 10), (0, 2, 3, 5, 7, 9, 10), (0, 2, 3, 5, 7, 8, 10),
    (0, 2, 4, 5, 7, 9, 10), (0, 2, 4, 5, 7, 9, 11), (0, 2, 3, 5, 7, 8, 11),
)  # fmt: skip
CELLS = (
    (1.0,), (0.5, 0.5), (0.5, 0.25, 0.25), (0.25,) * 4, (1 / 3,) * 3, (2 / 3, 1 / 3), (0.75, 0.25), (1.5, 0.5),
    (1 / 6,) * 6, (2.0,), (0.25, 0.5, 0.25), (3.0,), (0.125,) * 8,
)  # fmt: skip
CELL_SHARES = np.array([4, 4, 2, 3, 2.5, 2, 2, 3, 0.8, 4, 1.5, 2, 0.5])
FIGURES = (
    "melody",
    "legato run",
    "trill",
    "tapped",
    "muted",
    "staccato",
    "harmonics",
    "again",
    "slides",
    "bends",
    "doubles",
)
FIGURE_SHARES = np.array([9, 2.0, 0.5, 0.8, 1.4, 1.4, 1.2, 0.8, 2.2, 3, 2.5])
SIZES, SIZE_SHARES = (0.5, 1.0, 2.0, 3.0, 4.0), (0.08, 0.27, 0.45, 0.13, 0.07)


@dataclass
class _Habits:
    """How one player plays: drawn once a solo."""

    dice: np.random.Generator
    gesture: float = 0.0
    rise_s: float = 0.0
    over: float = 0.0
    shake_hz: float = 0.0
    shake_cents: float = 0.0
    loose_s: float = 0.0
    pull_s: float = 0.0
    hold: float = 0.0

    def __post_init__(self) -> None:
        draw = self.dice.uniform
        self.gesture, self.rise_s = draw(0.2, 0.65), float(np.exp(draw(np.log(0.06), np.log(0.35))))
        self.over, self.loose_s, self.pull_s = draw(0, 0.18), draw(0.003, 0.018), draw(-0.0006, 0.0006)
        self.shake_hz, self.shake_cents, self.hold = draw(4.2, 7.2), draw(9, 45), draw(0.82, 1.0)


@dataclass
class _Walk:
    """Where the melody is, and what was played so far."""

    dice: np.random.Generator
    tuning: Tuning
    beat_s: float
    habits: _Habits
    scale: tuple[int, ...]
    key: int
    position: int
    time_s: float = 0.4
    drift_s: float = 0.0
    degree: int = 0
    notes: list[Note] = field(default_factory=list)

    # --- the melody ---
    def midi(self, degree: int) -> int:
        octave, step = divmod(degree, len(self.scale))
        return self.key + 12 * octave + self.scale[step]

    def step(self) -> int:
        """Walk on, most of all by a step; turn back at the edges of what the position reaches."""
        leap = int(
            self.dice.choice([-4, -3, -2, -1, 0, 1, 2, 3, 4], p=[0.03, 0.06, 0.13, 0.25, 0.06, 0.25, 0.13, 0.06, 0.03])
        )
        low, high = self.tuning.open_midi[-1] + self.position + 8, self.tuning.open_midi[0] + self.position + 4
        pitch = self.midi(self.degree + leap)
        if not low <= pitch <= high:
            leap = -leap if low <= self.midi(self.degree - leap) <= high else (1 if pitch < low else -1)
        self.degree += leap
        return self.degree

    def place(self, midi: int, *, string: int | None = None) -> tuple[int, int] | None:
        """A place of a pitch near the position, or on a string."""
        strings = [string] if string is not None else range(1, self.tuning.strings + 1)
        places = [(s, round(midi - self.tuning.open_midi[s - 1])) for s in strings]
        fits = [(s, f) for s, f in places if 0 <= f <= 22]
        return min(fits, key=lambda at: abs(at[1] - self.position - 1.5), default=None)

    # --- the hand ---
    def put(self, beats: float, place: tuple[int, int], attack: Attack = Attack.PICK, *, hold: float | None = None,
            **more: object) -> None:  # fmt: skip
        """Play one note in time, as loosely as this hand does, and move on."""
        span_s = beats * self.beat_s
        legato = attack in (Attack.HAMMER, Attack.PULL, Attack.TAP, Attack.SLIDE)
        self.drift_s = 0.9 * self.drift_s + self.habits.pull_s * 10
        loose = self.drift_s + float(self.dice.normal(0, self.habits.loose_s))
        onset_s = max(self.time_s + loose, self.notes[-1].onset_s + 0.045 if self.notes else 0.0)
        if self.notes and (legato or self.notes[-1].offset_s > onset_s):
            linked = End.RUNS_ON if legato else self.notes[-1].end
            self.notes[-1] = replace(self.notes[-1], offset_s=onset_s, end=linked)
        share = self.habits.hold if hold is None else hold
        self.notes.append(Note(onset_s, onset_s + max(0.05, share * span_s), place[0], place[1], attack, **more))  # type: ignore[arg-type]
        self.time_s += span_s

    def shaken(self, span_s: float, from_s: float) -> Vibrato | None:
        if span_s - from_s < 0.35:
            return None
        draw = self.dice.normal
        return Vibrato(from_s, float(np.clip(self.habits.shake_hz + draw(0, 0.4), 3.8, 8)),
                       float(np.clip(self.habits.shake_cents * np.exp(draw(0, 0.3)), 7, 70)))  # fmt: skip

    def rise_s(self) -> float:
        return float(np.clip(self.habits.rise_s * np.exp(self.dice.normal(0, 0.4)), 0.03, 1.5))

    def eased(self, start_s: float, span_s: float, low: float, high: float) -> list[tuple[float, float]]:
        """A finger's way: slow, quick, slow (minimum jerk: T. Flash and N. Hogan, J. Neurosci. 5, 1985)."""
        share = np.linspace(0, 1, 9)
        way = 10 * share**3 - 15 * share**4 + 6 * share**5
        return [(start_s + span_s * float(a), low + (high - low) * float(b)) for a, b in zip(share, way, strict=True)]

    def bent(self, span_s: float, kind: str, size: float) -> tuple[PitchCurve, float]:
        """A bend's curve and when its top is reached."""
        rise_s = min(self.rise_s(), 0.75 * span_s)
        wait_s = min(0.3 * span_s, float(self.dice.choice([0.0, 0.0, 0.05, 0.12])))
        over = self.habits.over * float(self.dice.normal(0, 1)) if kind != "curl" else 0.0
        points: list[tuple[float, float]] = []
        if kind in ("bend", "bend and release"):
            rise_s = min(rise_s, 0.45 * span_s)
            points = self.eased(wait_s, rise_s, 0.0, size + over)
            if over and wait_s + rise_s + 0.09 < span_s:
                points += [(wait_s + rise_s + 0.08, size)]
        elif kind in ("pre-bend", "pre-bend and release"):
            wait_s, rise_s = 0.0, 0.0
            points = [(0.0, size + 0.3 * over)]
        elif kind == "curl":
            at_s = 0.6 * span_s
            points = [(0.0, 0.0), *self.eased(at_s, 0.3 * span_s, 0.0, float(self.dice.uniform(0.3, 0.6)))]
        if kind.endswith("release"):
            held_s = max(points[-1][0] + 0.05, float(self.dice.uniform(0.35, 0.55)) * span_s)
            fall_s = min(self.rise_s(), 0.85 * (span_s - held_s))
            if fall_s > 0.03:
                points += [(held_s, size), *self.eased(held_s + 0.002, fall_s, size, 0.0)]
        if points[0][0] > 0:
            points = [(0.0, points[0][1]), *points]
        return PitchCurve(tuple({round(t, 4): (round(t, 4), b) for t, b in points}.values())), wait_s + rise_s

    # --- figures ---
    def melody(self) -> None:
        for _ in range(int(self.dice.integers(1, 4))):
            cell = CELLS[int(self.dice.choice(len(CELLS), p=CELL_SHARES / CELL_SHARES.sum()))]
            for beats in cell:
                place = self.place(self.midi(self.step()))
                if place is None:
                    continue
                self._dressed(beats, place)

    def _dressed(self, beats: float, place: tuple[int, int]) -> None:
        span_s, dice = beats * self.beat_s, self.dice
        before = self.notes[-1] if self.notes else None
        same_string = before is not None and before.string == place[0] and before.fret != place[1]
        near = same_string and before is not None and self.time_s - before.offset_s < 0.12 and before.curve == FLAT
        plain = before is not None and before.tone is Tone.NORMAL
        if near and plain and before is not None and abs(before.fret - place[1]) <= 4 and dice.random() < 0.45:
            self.put(beats, place, Attack.HAMMER if place[1] > before.fret else Attack.PULL)
            return
        if near and plain and before is not None and before.duration_s > 0.15 and dice.random() < 0.15:
            self.put(beats, place, Attack.SLIDE)
            return
        if dice.random() < self.habits.gesture and span_s > 0.2 and place[1] > 2:
            self._gesture(beats, place)
            return
        wave = self.shaken(self.habits.hold * span_s, float(dice.uniform(0.05, 0.3))) if dice.random() < 0.6 else None
        end = End.SLIDES_AWAY if span_s > 0.35 and place[1] > 4 and wave is None and dice.random() < 0.12 else End.STOPS
        self.put(beats, place, vibrato=wave, slid_in=place[1] > 3 and span_s > 0.25 and dice.random() < 0.15, end=end)

    def _gesture(self, beats: float, place: tuple[int, int]) -> None:
        dice, span_s = self.dice, self.habits.hold * beats * self.beat_s
        kind = str(dice.choice(["bend", "bend and release", "pre-bend", "pre-bend and release", "curl"],
                               p=[0.45, 0.22, 0.06, 0.14, 0.13]))  # fmt: skip
        size = float(dice.choice(SIZES, p=SIZE_SHARES)) if place[0] <= 3 else float(dice.choice([0.5, 1.0, 2.0]))
        target = place[1] if kind == "curl" else max(1, place[1] - round(size))
        curve, top_s = self.bent(span_s, kind, size * (1 + float(dice.normal(0, 0.02))))
        shaken = kind in ("bend", "pre-bend") and dice.random() < 0.5
        self.put(beats, (place[0], target), curve=curve, vibrato=self.shaken(span_s, top_s + 0.1) if shaken else None)
        if kind == "bend" and not shaken and span_s > 0.3 and dice.random() < 0.15:  # struck again while it is held
            self.put(beats, (place[0], target), Attack.REPICK, curve=PitchCurve(((0.0, size),)))

    def bends(self) -> None:
        for _ in range(int(self.dice.integers(1, 4))):
            place = self.place(self.midi(self.step()))
            if place is not None and place[1] > 3:
                self._gesture(float(self.dice.choice([0.5, 1.0, 1.5, 2.0])), place)

    def legato_run(self) -> None:
        """Several notes to a string, one pick each string."""
        beats, way = float(self.dice.choice([0.25, 1 / 6, 1 / 3])), int(self.dice.choice([1, -1]))
        string = int(self.dice.integers(2, 6))
        for _ in range(int(self.dice.integers(1, 4))):
            picked = False
            for _ in range(int(self.dice.integers(2, 5))):
                self.degree += way
                place = self.place(self.midi(self.degree), string=string)
                if place is None or abs(place[1] - self.position) > 7:
                    self.degree -= way
                    break
                self.put(beats, place, (Attack.HAMMER if way > 0 else Attack.PULL) if picked else Attack.PICK, hold=1.0)
                picked = True
            string = int(np.clip(string - way, 1, 5))

    def trill(self) -> None:
        place = self.place(self.midi(self.step()))
        if place is None:
            return
        gap, beats = int(self.dice.integers(1, 4)), float(self.dice.uniform(0.055, 0.11)) / self.beat_s
        self.put(beats, place, hold=1.0)
        for _ in range(int(self.dice.integers(3, 9))):
            self.put(beats, (place[0], place[1] + gap), Attack.HAMMER, hold=1.0)
            self.put(beats, place, Attack.PULL, hold=1.0)

    def tapped(self) -> None:
        string, base = int(self.dice.integers(1, 4)), max(2, self.position)
        upper, tap = base + int(self.dice.integers(2, 5)), base + int(self.dice.integers(7, 11))
        beats = float(self.dice.choice([1 / 3, 0.25, 1 / 6]))
        self.put(beats, (string, min(tap, 22)), hold=1.0)
        for _ in range(int(self.dice.integers(2, 5))):
            self.put(beats, (string, base), Attack.PULL, hold=1.0)
            self.put(beats, (string, upper), Attack.HAMMER, hold=1.0)
            self.put(beats, (string, min(tap, 22)), Attack.TAP, hold=1.0)

    def muted(self) -> None:
        beats = float(self.dice.choice([0.25, 0.5, 1 / 3]))
        string = int(self.dice.choice([3, 4, 5, 6, 2]))
        pitch = [int(self.dice.choice([0, 0, 2, 3, 5])) for _ in range(int(self.dice.integers(3, 9)))]
        for up in pitch:
            self.put(
                beats,
                (string, max(0, self.position + up)),
                tone=Tone.PALM_MUTE,
                hold=float(self.dice.uniform(0.5, 0.95)),
            )

    def staccato(self) -> None:
        beats = float(self.dice.choice([0.5, 1.0]))
        for _ in range(int(self.dice.integers(3, 6))):
            place = self.place(self.midi(self.step()))
            if place is not None:
                self.put(beats, place, hold=float(self.dice.uniform(0.25, 0.45)))

    def harmonics(self) -> None:
        for string in self.dice.choice(range(1, 6), size=int(self.dice.integers(1, 4)), replace=False):
            fret = int(self.dice.choice([12, 7, 5]))
            self.put(float(self.dice.choice([1.0, 0.5, 2.0])), (int(string), fret), tone=Tone.NATURAL_HARMONIC)

    def again(self) -> None:
        place, beats = self.place(self.midi(self.step())), float(self.dice.choice([0.25, 0.5, 1 / 3]))
        for _ in range(int(self.dice.integers(3, 7))):
            if place is not None:
                self.put(beats, place)

    def doubles(self) -> None:
        """Two strings at once: in parallel, or the lower one bent under the other or up to it."""
        upper = int(self.dice.integers(1, 5))
        lower = upper + int(self.dice.choice([1, 1, 1, 2]))
        bent = self.dice.random() < 0.35
        for _ in range(1 if bent else int(self.dice.integers(2, 5))):
            degree = self.step()
            high = self.place(self.midi(degree), string=upper)
            low = self.place(self.midi(degree - int(self.dice.choice([2, 2, 3, 5]))), string=lower)
            if high is None or low is None or abs(high[1] - low[1]) > 4 or min(high[1], low[1]) < 1:
                continue
            beats = float(self.dice.choice([0.5, 1.0, 2.0])) * (2 if bent else 1)
            gap = self.tuning.open_midi[upper - 1] + high[1] - self.tuning.open_midi[lower - 1] - low[1]
            size = float(gap) if bent and gap <= 3 else 2.0  # up to the other, or so far under it
            curve = self.bent(self.habits.hold * beats * self.beat_s, "bend", size)[0] if bent else FLAT
            begin_s = self.time_s
            self.put(beats, low, curve=curve)
            self.time_s = begin_s
            first = self.notes[-1]
            later_s = abs(float(self.dice.normal(0, 0.006)))
            self.notes.append(replace(first, string=high[0], fret=high[1], curve=FLAT, onset_s=first.onset_s + later_s))
            self.time_s = begin_s + beats * self.beat_s

    def slides(self) -> None:
        """Up or down one string by shift slides."""
        string = int(self.dice.integers(1, 5))
        place = self.place(self.midi(self.step()), string=string)
        if place is None or not 2 <= place[1] <= 18:
            return
        self.put(1.0, place, slid_in=place[1] > 4 and self.dice.random() < 0.4, hold=1.0)
        for _ in range(int(self.dice.integers(1, 3))):
            self.degree += int(self.dice.choice([-2, -1, 1, 2, 3]))
            to = self.place(self.midi(self.degree), string=string)
            if to is not None and 1 <= to[1] <= 21 and to[1] != self.notes[-1].fret:
                self.put(float(self.dice.choice([0.5, 1.0])), to, Attack.SLIDE, hold=1.0)
                self.position = int(np.clip(to[1] - 2, 1, 15))


def second_case(seed: int, *, length_s: float = 30.0) -> Case:
    """Compose a solo; the same seed gives the same one."""
    dice = np.random.default_rng([seed, 31])
    tuning = tuple(TUNINGS.values())[int(dice.integers(len(TUNINGS)))]
    tuning = replace(tuning, offset_cents=float(dice.choice([0.0, dice.uniform(-30, 30)])))
    beat_s = 60.0 / float(dice.uniform(62, 168))
    key = int(tuning.open_midi[-1]) + 12 + int(dice.integers(0, 12))
    scale = SCALES[int(dice.integers(len(SCALES)))]
    walk = _Walk(dice, tuning, beat_s, _Habits(dice), scale, key, int(dice.integers(2, 14)))
    walk.degree = len(scale)
    figures = {name: getattr(walk, name.replace(" ", "_")) for name in FIGURES}
    while walk.time_s < length_s:
        figures[str(dice.choice(FIGURES, p=FIGURE_SHARES / FIGURE_SHARES.sum()))]()
        if dice.random() < 0.25:
            walk.time_s += beat_s * float(dice.choice([0.5, 1.0, 2.0]))
        if dice.random() < 0.2:
            walk.position = int(np.clip(walk.position + dice.integers(-5, 6), 1, 15))
    notes = [note for note in walk.notes if note.offset_s - note.onset_s > 0.03]
    score = Score((), tuning, BeatMap.steady(60.0 / beat_s, 0.4)).with_notes(notes)
    return Case(seed, score, beat_s, key % 12)
