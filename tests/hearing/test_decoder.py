"""What the decoder claims of pitch curves that are known: each claim, each pair that is confused, and that nothing of
what sounds stays unwritten. Which motion makes which gesture: common practice, no source, unless said otherwise.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import pytest

from notcher.core.arrays import FloatArray
from notcher.core.hearing.contour import Unit, contour
from notcher.core.hearing.costs import COSTS
from notcher.core.hearing.decoder import Decoded, Explained, decoded
from notcher.core.hearing.links import _without_phantoms
from notcher.core.hearing.note_contour import ATTACK_SHARP_S, _level_the_attack, measured_curve
from notcher.core.hearing.notes import _curls
from notcher.core.hearing.pitch import HOP_S
from notcher.core.score import Side
from notcher.core.score.gesture import read_curve

FINGER_BEND_S, SLIDE_FRET_S = 0.14, 0.03


@dataclass(frozen=True)
class Motion:
    """A pitch curve under construction; seconds and semitones."""

    midi: tuple[float, ...] = ()
    picks: tuple[int, ...] = ()

    def rest(self, seconds: float) -> "Motion":
        return replace(self, midi=(*self.midi, *[np.nan] * round(seconds / HOP_S)))

    def pick(self) -> "Motion":
        return replace(self, picks=(*self.picks, len(self.midi)))

    def hold(self, level: float, seconds: float) -> "Motion":
        return replace(self, midi=(*self.midi, *[level] * round(seconds / HOP_S)))

    def glide(self, to: float, seconds: float) -> "Motion":
        """As a finger bends: slow, quick, slow."""
        part = np.linspace(0, 1, max(2, round(seconds / HOP_S)) + 1)[1:]
        way = self.midi[-1] + (to - self.midi[-1]) * (1 - np.cos(np.pi * part)) / 2
        return replace(self, midi=(*self.midi, *way.tolist()))

    def frets(self, to: int, fret_s: float = SLIDE_FRET_S) -> "Motion":
        """As a hand slides: a fret at a time."""
        start = round(self.midi[-1])
        made = self
        for fret in range(start, to, 1 if to > start else -1):
            made = made.hold(fret + (1 if to > start else -1), fret_s)
        return made

    def shake(self, extent: float, rate_hz: float, seconds: float) -> "Motion":
        times = np.arange(round(seconds / HOP_S)) * HOP_S
        wave = self.midi[-1] + extent * (1 - np.cos(2 * np.pi * rate_hz * times))
        return replace(self, midi=(*self.midi, *wave.tolist()))

    def told(self, seed: int = 0, *, slid: float | None = None) -> list[Decoded]:
        """What the decoder says, the curve blurred by 2 cents as a tracker's is. slid: what is heard at each step."""
        midi = np.array([*self.midi, *[np.nan] * 30]) + 0.02 * np.random.default_rng(seed).standard_normal(
            len(self.midi) + 30
        )
        steps = np.flatnonzero(np.abs(np.diff(np.array(self.midi))) > 0.5) + 1 if slid is not None else []
        moments = np.array(sorted({*self.picks, *map(int, steps)}), dtype=np.int64)
        chance = np.where(np.isin(moments, self.picks), 0.99, 0.01)
        heard = None if slid is None else np.where(chance > 0.5, 0.05, slid)
        return decoded(midi, moments, chance, slid=heard).notes


def _start(level: float = 67.0, seconds: float = 0.4) -> Motion:
    return Motion().rest(0.3).pick().hold(level, seconds)


CLAIMS = {
    "plain": (_start(), [(67, "pick", (0.0,))]),
    "bend": (_start(67, 0.1).glide(69, FINGER_BEND_S).hold(69, 0.5), [(67, "pick", (0.0, 2.0))]),
    "half bend": (_start(67, 0.1).glide(68, FINGER_BEND_S).hold(68, 0.5), [(67, "pick", (0.0, 1.0))]),
    "bend and release": (
        _start(67, 0.1).glide(69, FINGER_BEND_S).hold(69, 0.3).glide(67, FINGER_BEND_S).hold(67, 0.3),
        [(67, "pick", (0.0, 2.0, 0.0))],
    ),
    "pre-bend and release": (_start(69, 0.3).glide(67, 0.2).hold(67, 0.4), [(67, "pick", (2.0, 0.0))]),
    "picked again at the top": (
        _start(67, 0.1).glide(69, FINGER_BEND_S).hold(69, 0.3).pick().hold(69, 0.3).glide(67, 0.2).hold(67, 0.3),
        [(67, "pick", (0.0, 2.0)), (67, "repick", (2.0, 0.0))],
    ),
    "hammer": (_start(67, 0.25).hold(69, 0.25), [(67, "pick", (0.0,)), (69, "legato", (0.0,))]),
    "pull": (_start(69, 0.25).hold(67, 0.25), [(69, "pick", (0.0,)), (67, "legato", (0.0,))]),
    "two picked": (_start(67, 0.25).pick().hold(69, 0.25), [(67, "pick", (0.0,)), (69, "pick", (0.0,))]),
    "slide": (_start(67, 0.3).frets(72).hold(72, 0.4), [(67, "pick", (0.0,)), (72, "slide", (0.0,))]),
    "dip of a bar": (
        _start(67, 0.3).glide(65.4, 0.12).glide(67, 0.12).hold(67, 0.4),
        [(67, "pick", (0.0, -1.0, 0.0))],
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", CLAIMS)
def test_each_claim(name: str) -> None:
    motion, expected = CLAIMS[name]
    assert [(note.fretted, note.way, note.bends) for note in motion.told()] == expected


def test_a_slide_to_nowhere_and_one_from_nowhere() -> None:
    away = _start(69, 0.4).frets(62, 0.017).told()
    assert [(note.fretted, note.slides_away) for note in away] == [(69, True)]
    into = Motion().rest(0.3).pick().hold(64, 0.03).frets(69).hold(69, 0.5).told()
    assert [(note.fretted, note.from_nowhere) for note in into] == [(69, True)]


@pytest.mark.parametrize("fret_s", [0.03, 0.04])
@pytest.mark.parametrize("frets", [2, 3, 4])
def test_a_hand_that_slides_in_slowly_plays_no_note_below(fret_s: float, frets: int) -> None:
    """Nobody frets a note for a twentieth of a second and then slides (common practice, no source)."""
    into = Motion().rest(0.3).pick().hold(69 - frets, fret_s).frets(69, fret_s).hold(69, 0.5).told(slid=0.9)
    assert [(note.fretted, note.from_nowhere) for note in into] == [(69, True)]


def test_a_vibrato_is_one_note_with_a_wave() -> None:
    """Rate and extent of a finger's vibrato: a few cycles a second, half a semitone at most (from memory)."""
    note, *more = _start(67, 0.3).shake(0.2, 5.5, 0.9).told()
    assert not more
    assert note.wave is not None
    assert note.fretted == 67
    assert note.wave.rate_hz == pytest.approx(5.5, rel=0.06)
    assert note.wave.extent == pytest.approx(0.2, rel=0.15)


def test_a_trill_is_no_vibrato() -> None:
    trill = _start(67, 0.09)
    for _ in range(4):
        trill = trill.hold(69, 0.09).hold(67, 0.09)
    told = trill.told()
    assert [note.fretted for note in told] == [67, 69] * 4 + [67]
    assert {note.way for note in told[1:]} == {"legato"}


# --- what is confused ---
@pytest.mark.parametrize("seconds", [0.05, 0.08, 0.14, 0.25])
@pytest.mark.parametrize("size", [1.0, 2.0, 3.0])
def test_a_quick_bend_is_no_slide_and_no_hammer(seconds: float, size: float) -> None:
    if size / seconds > 30:
        pytest.skip("no finger is so quick: 30 semitones a second (common practice, no source)")
    told = _start(67, 0.15).glide(67 + size, seconds).hold(67 + size, 0.5).told()
    assert [(note.fretted, note.bends[-1]) for note in told] == [(67, size)]


@pytest.mark.parametrize("frets", [3, 4, 5, 7])
@pytest.mark.parametrize("fret_s", [0.02, 0.03, 0.04])
def test_a_slide_is_no_bend(frets: int, fret_s: float) -> None:
    told = _start(67, 0.3).frets(67 + frets, fret_s).hold(67 + frets, 0.4).told()
    assert [note.fretted for note in told] == [67, 67 + frets]
    assert told[1].way == "slide"


def test_a_release_is_no_dip() -> None:
    """A bar goes below the fret; a string that is let down stops at it."""
    told = _start(69, 0.3).glide(67, 0.12).hold(67, 0.2).pick().hold(69, 0.3).told()
    assert all(bend >= 0 for note in told for bend in note.bends)


def test_a_dive_is_no_slide() -> None:
    told = _start(62, 0.6).glide(56, 0.7).hold(56, 0.15).told()
    assert [(note.fretted, note.bends, note.slides_away) for note in told] == [(62, (0.0, -1.0), False)]


def test_a_sharp_pluck_is_no_release() -> None:
    """A hard pluck stretches the string: N. Fletcher and T. Rossing, "The Physics of Musical Instruments", 1998."""
    told = _start(67.45, 0.03).glide(67, 0.04).hold(67, 0.4).told()
    assert [(note.fretted, note.bends[-1]) for note in told] == [(67, 0.0)]


def test_an_attack_is_taken_once() -> None:
    """Where a note's last frames fall off before the next attack, the attack is the next note's."""
    told = _start(62, 0.5).glide(62.4, 0.1).hold(62.4, 0.1).hold(62.1, 0.012).pick().hold(52.2, 0.3).told()
    assert [note.fretted for note in told][-1] == 52
    assert len(told) == 2


# --- everything that sounds is explained ---
KINDS = ("pick", "legato", "bend", "slide", "rest", "anything")


def _steps(seed: int) -> list[tuple[str, int, float]]:
    dice = np.random.default_rng(seed)
    return [
        (KINDS[dice.integers(len(KINDS))], int(dice.integers(-6, 7)), float(dice.uniform(0.06, 0.5)))
        for _ in range(dice.integers(2, 15))
    ]


def _played(steps: list[tuple[str, int, float]]) -> Motion:
    motion, level = _start(67, 0.2), 67
    for kind, interval, seconds in steps:
        level = min(80, max(54, level + interval))
        if np.isnan(motion.midi[-1]) or kind == "pick":
            motion = motion.pick().hold(level, seconds)
        elif kind == "legato":
            motion = motion.hold(level, seconds)
        elif kind == "bend":
            motion = motion.glide(level, FINGER_BEND_S).hold(level, seconds)
        elif kind == "slide":
            motion = motion.frets(level).hold(level, seconds)
        elif kind == "rest":
            motion = motion.rest(0.06 + seconds / 2)
        else:  # what nobody plays: between the frets, and as slow as it likes
            motion = motion.glide(level + 0.37, seconds)
    return motion


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(80))
def test_nothing_that_sounds_is_unwritten(seed: int) -> None:
    motion = _played(_steps(seed))
    voiced = ~np.isnan(np.array(motion.midi))
    written = np.zeros(voiced.size, dtype=bool)
    told = motion.told(seed)
    for note in told:
        written[note.first : note.last] = True
    assert np.count_nonzero(voiced & ~written) * HOP_S <= 0.03, "a blink at the edges of a silence at most"
    assert [note.first for note in told] == sorted(note.first for note in told)
    assert all(note.last - note.first >= 3 for note in told)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(100, 120))
def test_transposed_it_is_the_same(seed: int) -> None:
    motion = _played(_steps(seed))
    higher = replace(motion, midi=tuple(value + 5 for value in motion.midi))
    here, there = motion.told(), higher.told()
    assert [(n.first, n.way, n.fretted + 5) for n in here] == [(n.first, n.way, n.fretted) for n in there]


def test_the_curve_is_rebuilt_from_its_units() -> None:
    """Plateaus and turning points carry the curve: straight lines between them stay near it."""
    motion = _start(67, 0.3).glide(69, 0.2).hold(69, 0.3).glide(67, 0.15).hold(67, 0.2)
    midi: FloatArray = np.array(motion.midi)
    found = contour(midi)
    knots = [frame for unit in found.units for frame in (unit.first, unit.last - 1)]
    levels = [unit.level for unit in found.units for _ in range(2)]
    frames = np.flatnonzero(~np.isnan(midi))
    assert np.abs(np.interp(frames, knots, levels) - midi[frames]).max() < 0.45


def test_dearer_bends_are_other_notes() -> None:
    """The costs decide: where bending costs more than anything, the same curve is two notes."""
    motion = CLAIMS["bend"][0]
    midi = np.array([*motion.midi, *[np.nan] * 30])
    dear = replace(COSTS, bend=60.0, prebend=60.0, bar=60.0, repick=60.0, push=60.0)
    told = decoded(midi, np.array(motion.picks), np.full(1, 0.99), costs=dear).notes
    assert [note.fretted for note in told] == [67, 69]


# --- what else it could be ---
def _explained(motion: Motion, chances: list[float]) -> Explained:
    midi = np.array([*motion.midi, *[np.nan] * 30])
    return decoded(midi, np.array(motion.picks), np.array(chances))


@pytest.mark.parametrize(("chance", "first", "other"), [(0.9, "pick", "legato"), (0.1, "legato", "pick")])
def test_an_attack_in_doubt_leaves_the_other_reading(chance: float, first: str, other: str) -> None:
    told = _explained(_start(67, 0.3).pick().hold(69, 0.4), [0.99, chance])
    assert told.notes[1].way == first
    assert other in {reading.notes[reading.at].way for reading in told.others[1]}


def test_a_surer_note_has_its_other_readings_further_behind() -> None:
    def cost_delta(chance: float) -> float:
        told = _explained(_start(67, 0.3).pick().hold(69, 0.4), [0.99, chance])
        return next(
            r.cost_delta for r in told.others[1] if r.notes[r.at].way == "legato" and r.notes[r.at].fretted == 69
        )

    # the costs are nats: the odds of an attack are all that changed between the two
    assert cost_delta(0.95) - cost_delta(0.8) == pytest.approx(np.log(0.95 / 0.05) - np.log(0.8 / 0.2), abs=1e-6)


@pytest.mark.parametrize("seed", range(12))
def test_other_readings_explain_a_stretch_and_cost_no_less(seed: int) -> None:
    dice = np.random.default_rng(seed)
    motion = _start(float(dice.integers(55, 70)), 0.2)
    for _ in range(8):
        to = float(np.clip(motion.midi[-1] + dice.integers(-4, 5), 50, 80))
        motion = motion.glide(to, float(dice.uniform(0.02, 0.25))) if dice.random() < 0.5 else motion.pick()
        motion = motion.hold(to, float(dice.uniform(0.08, 0.4)))
    told = _explained(motion, dice.uniform(0.05, 0.99, len(motion.picks)).tolist())
    assert len(told.others) == len(told.notes)
    for number, readings in enumerate(told.others):
        assert [reading.cost_delta for reading in readings] == sorted(reading.cost_delta for reading in readings)
        for reading in readings:
            assert reading.cost_delta >= 0
            assert reading.first <= number < reading.last
            within = told.notes[number].first + 2
            assert reading.notes[reading.at].first <= within < reading.notes[reading.at].last
            assert reading.notes[0].first >= told.notes[reading.first].first - 12
            assert all(a.first < b.first for a, b in pairwise(reading.notes))


# A curl is pushed late and slowly, 20 to 70 cents (common practice, no source).
@pytest.mark.parametrize("size", [0.3, 0.4, 0.55])
@pytest.mark.parametrize("seconds", [0.12, 0.25, 0.4])
def test_a_slow_curl_is_no_note_that_was_bent_before(size: float, seconds: float) -> None:
    told = _start(67, 0.8).glide(67 + size, seconds).hold(67 + size, 0.3).told()
    assert [(note.fretted, note.bends[0]) for note in told] == [(67, 0.0)]


@pytest.mark.parametrize("low", [67, 69])
def test_a_leap_in_a_frame_is_no_push_of_the_string(low: int) -> None:
    """A tap four frets up, seen half way for one frame: 300 semitones a second are no finger's."""
    told = _start(low, 0.11).hold(low + 3.5, 0.006).hold(low + 4, 0.12).told()
    assert [(note.fretted, set(note.bends)) for note in told] == [(low, {0.0}), (low + 4, {0.0})]


@pytest.mark.parametrize("rest_s", [0.1, 0.15])
def test_a_slide_rests_on_no_fret_on_its_way(rest_s: float) -> None:
    """Three quick notes up a string are three notes."""
    told = _start(67, rest_s).hold(70, rest_s).hold(74, rest_s).told()
    assert [note.fretted for note in told] == [67, 70, 74]
    assert not any(note.slides_away for note in told)


# A finger on a bend lets it down a little and pushes it up again, or rocks around it (common practice, no source).
@pytest.mark.parametrize(("way", "side"), [(1.0, Side.ABOVE), (0.0, Side.AROUND), (-1.0, Side.BELOW)])
def test_a_vibrato_on_a_bend_is_claimed_where_it_swings(way: float, side: Side) -> None:
    """The claim lies on the curve within a quarter of its swing, and no side of it is a release."""
    times_s = np.arange(round(1.6 / HOP_S)) * HOP_S
    grown = np.clip((times_s - 0.6) / 0.1, 0, 1) * 0.3
    turns = 2 * np.pi * 5.5 * np.maximum(times_s - 0.6, 0)
    wave = grown * (np.sin(turns) if way == 0 else way * (1 - np.cos(turns)))
    bend = 2 * np.clip((times_s - 0.1) / 0.15, 0, 1) + wave
    curve, vibrato = measured_curve(bend + 0.01 * np.random.default_rng(1).standard_normal(bend.size))
    assert vibrato is not None
    assert vibrato.side is side
    assert read_curve(curve, vibrato, 1.6).names == ("bend", "vibrato")
    claimed = curve.at(times_s) + vibrato.at(times_s)
    late = (times_s > 0.85) & (times_s < 1.5)
    assert np.ptp(claimed[late]) == pytest.approx(0.6, rel=0.2)
    assert abs(np.mean(claimed[late]) - np.mean(bend[late])) < 0.08


@pytest.mark.parametrize(("below", "left"), [(24.0, 1), (19.02, 1), (10.5, 2)])
def test_a_common_period_at_the_beginning_is_no_note(below: float, left: int) -> None:
    """Two strings together repeat after a whole number of the higher one's periods: 12 log2 n semitones below."""
    units = [Unit(10, 16, 67 - below), Unit(18, 80, 67.0)]
    kept, _ = _without_phantoms(units, [False, True], np.array([8]), np.array([0.9]), np.array([0.0]))
    assert len(kept) == left
    assert kept[0].first == 10, "the note begins where the sound does"


@pytest.mark.parametrize(("late", "curls"), [(5, True), (4, False)])
def test_a_curl_needs_five_frames_to_be_seen(late: int, curls: bool) -> None:
    deviation = np.concatenate([np.zeros(late + 1), np.full(late, 0.4)])
    assert _curls(deviation) is curls


def test_a_sharp_pluck_is_levelled_in_the_shortest_note_that_shows_its_rest() -> None:
    settle = round(ATTACK_SHARP_S / HOP_S)
    curve = np.concatenate([np.full(settle, 0.2), np.zeros(4)])
    _level_the_attack(curve)
    assert not curve.any()


def test_a_slide_off_that_stops_on_frets_is_one_slide_off() -> None:
    motion = _start(72, 0.4).hold(71, 0.03).hold(70, 0.03).hold(69, 0.04).hold(68, 0.05).hold(67, 0.03).hold(66, 0.03)
    notes = motion.rest(0.3).told()
    assert [round(note.fretted) for note in notes] == [72]


@pytest.mark.parametrize("stop_s", [0.03, 0.05])
def test_a_hand_that_turns_round_slides_to_a_fret_and_not_to_nowhere(stop_s: float) -> None:
    motion = _start(72, 0.4)
    for level in (71, 70, 69, 70, 71, 72):
        motion = motion.hold(level, stop_s)
    first, *others = motion.rest(0.3).told(slid=0.9)
    assert not first.slides_away
    assert others, "where it turned was a fret"


@pytest.mark.parametrize(("frames", "notes"), [(3, 1), (4, 2)])
def test_what_is_let_go_may_wander_for_three_frames(frames: int, notes: int) -> None:
    """The end of a slide off turns back for 17 ms, as a string that is let go does; for longer it is a sound."""
    motion = _start(72, 0.3).hold(74, 4 * HOP_S).hold(75, 7 * HOP_S).hold(74, frames * HOP_S)
    told = motion.rest(0.3).told()
    assert told[0].slides_away
    assert len(told) == notes
