"""How far a bend is from its target while it sounds, how wide a vibrato; the gym's count; limits of hearing."""

import itertools

import numpy as np
import pytest

from notcher.core.score import Note, Score, Vibrato, bent_curve
from notcher.core.teaching import LAST_BENDS, BendGym, Mirror, limen_cents, target_midi, written_at

BENT = Note(1.0, 2.0, 2, 12, curve=bent_curve(2, 1.0, rise_s=0.2))
SCORE = Score((Note(0.0, 0.9, 3, 14), BENT, Note(2.0, 4.0, 3, 12, vibrato=Vibrato(0.2, 5.5, 40))))


# Wier, Jesteadt and Green 1977: at 1 kHz and 40 dB about 2 Hz, at 200 Hz about 1 Hz (from memory; read off a figure).
@pytest.mark.outside(
    what="the smallest difference of pitch that is heard",
    source="C. Wier, W. Jesteadt, D. Green, JASA 61, 1977",
    tolerance="5 %",
    why="read off a figure",
    kind="memory",
)
@pytest.mark.parametrize(("hertz", "just_hz"), [(1_000.0, 1.95), (200.0, 0.68), (400.0, 0.97)])
def test_the_limen_is_that_of_the_published_line(hertz: float, just_hz: float) -> None:
    cents = 1200 * np.log2((hertz + just_hz) / hertz)
    assert limen_cents(hertz) == pytest.approx(cents, rel=0.05)


def test_what_is_written_and_where_a_bend_goes() -> None:
    note, midi = written_at(SCORE, 1.9)
    assert note is SCORE.notes[1]
    assert midi == pytest.approx(SCORE.sounding_midi(note) + 2)
    assert target_midi(SCORE, SCORE.notes[1]) == SCORE.sounding_midi(SCORE.notes[1]) + 2
    assert target_midi(SCORE, SCORE.notes[0]) == SCORE.sounding_midi(SCORE.notes[0])
    assert written_at(SCORE, 0.95) is None


@pytest.mark.parametrize("octave", [0, 12, -12])
def test_cents_off_the_target_while_it_sounds(octave: int) -> None:
    mirror, top = Mirror(), target_midi(SCORE, SCORE.notes[1])
    mirror.hear(1.5, top - 0.3 + octave)
    found = mirror.off_cents(SCORE)
    assert found is not None
    assert found[0] is SCORE.notes[1]
    assert found[1] == pytest.approx(-30.0)
    mirror.hear(1.6, None)
    assert mirror.off_cents(SCORE) is None
    mirror.hear(0.5, 60.0)
    assert len(mirror.trace) == 1, "the loop began again"


@pytest.mark.parametrize("half_cents", [15.0, 40.0, 80.0])
def test_the_width_of_a_vibrato_is_the_one_that_is_played(half_cents: float) -> None:
    mirror = Mirror()
    for time_s in np.arange(2.0, 3.2, 0.012):
        mirror.hear(time_s, 67 + half_cents / 100 * np.sin(2 * np.pi * 5.5 * time_s))
    assert mirror.vibrato_cents == pytest.approx(half_cents, rel=0.15)
    still = Mirror()
    for time_s in np.arange(2.0, 3.2, 0.012):
        still.hear(time_s, 67 + 0.01 * np.sin(40 * time_s))
    assert still.vibrato_cents is None


def play(gym: BendGym, begin_s: float, size: float) -> None:
    """A bend of a size that is reached, held and let down."""
    times = np.arange(0.0, 1.4, 0.012)
    bent = np.interp(times, [0, 0.3, 1.0, 1.2, 1.4], [0, size, size, 0, 0])
    for at, value in zip(times, bent, strict=True):
        gym.hear(begin_s + at, gym.base_midi + value)
    gym.hear(begin_s + 1.5, None)


def test_the_gym_counts_each_bend_once_and_keeps_the_last_ten() -> None:
    gym, asked = BendGym(71.0, (1.0, 2.0, 3.0)), []
    for number in range(14):
        asked.append(gym.size)
        play(gym, 2.0 * number, gym.size - 0.2)
    assert len(gym.landed) == LAST_BENDS == 10
    assert [one.size for one in gym.landed] == asked[-10:]
    assert [one.cents for one in gym.landed] == pytest.approx([-20.0] * 10, abs=3)
    assert all(a != b for a, b in itertools.pairwise(asked)), "never the same twice in a row"
    assert sum(map(len, gym.by_size.values())) == 10


def test_a_bend_that_is_not_held_does_not_count() -> None:
    gym = BendGym(71.0, (2.0,))
    for at in np.arange(0.0, 0.5, 0.012):
        gym.hear(at, 71.0 + 4 * at)
    gym.hear(0.6, None)
    assert list(gym.landed) == []
    with pytest.raises(ValueError, match="upward"):
        BendGym(71.0, (0.0,))


def test_one_moment_tells_of_no_vibrato() -> None:
    mirror = Mirror()
    mirror.trace.append((0.0, 69.0))
    assert mirror.vibrato_cents is None
