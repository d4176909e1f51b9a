"""One stream takes over from another: nothing is heard twice, nothing is left out, nothing clicks."""

import numpy as np
import pytest

from conftest import RATE, sine
from notcher.core.mixing import Handover, Loop, LoopPassage, Turn
from notcher.core.sound import Clip


@pytest.fixture(scope="module")
def tone() -> Clip:
    return Clip(np.column_stack([sine(261.63, 4.0), sine(392.0, 4.0)]), RATE)


def test_the_same_sound_goes_on_as_if_nothing_had_happened(tone: Clip) -> None:
    """Two shares that add up to one leave what is the same on both sides as it is."""
    first, second = LoopPassage(tone, 0.0, 1.0), LoopPassage(tone, 1.0, 1.0)
    first.prepare()
    second.prepare()
    line = Handover(first)
    line.follow(Turn(2 * RATE, second, second.position_at(2.0)))
    heard = np.concatenate([line.read(at, 1_000) for at in range(0, 3 * RATE, 1_000)])
    assert heard == pytest.approx(tone.samples[: heard.shape[0]], abs=1e-6)
    assert [line.turn_at(at).stream for at in (2 * RATE - 1, 2 * RATE)] == [first, second]


@pytest.mark.parametrize("at_s", [1.1, 1.4, 1.9])
@pytest.mark.parametrize("rest_s", [0.0, 0.3])
def test_a_loop_knows_where_a_second_sounds(tone: Clip, at_s: float, rest_s: float) -> None:
    loop = Loop(tone, 1.0, 2.0, pace=0.5, at_s=at_s, rest_s=rest_s)
    for time_s in (1.05, 1.5, 1.95):
        position = loop.position_at(time_s)
        assert abs(position) <= loop.period // 2 + 1
        assert loop.time_at(position % loop.period) == pytest.approx(time_s, abs=1e-4)


def test_a_loop_that_is_all_there_is_entered_anywhere_and_a_short_end_waits_for_what_follows(tone: Clip) -> None:
    """0.2 s of sound before the seam are over too soon: the first that is said to be there reaches past it."""
    loop, there = Loop(tone, 1.0, 2.0, pace=0.5, at_s=1.9), []
    loop.prepare(lambda _share: there.append(loop.made))
    assert there[0] > loop.length - loop.entry
    assert there[-1] == loop.length
    assert [loop.position_at(time_s) for time_s in (1.9, 1.95, 1.05, 1.89)] == pytest.approx(
        [0, 0.1 * RATE, 0.3 * RATE, 1.98 * RATE], abs=2
    )


def test_what_was_read_cannot_be_changed_and_what_is_planned_can(tone: Clip) -> None:
    first, second = LoopPassage(tone, 0.0, 1.0), LoopPassage(tone, 1.0, 1.0)
    line = Handover(first)
    line.read(0, RATE)
    with pytest.raises(ValueError, match="read already"):
        line.follow(Turn(RATE - 1, second))
    line.follow(Turn(2 * RATE, second))
    line.stay()
    assert line.turn_at(3 * RATE).stream is first


def test_each_round_is_counted_in_and_rests_where_that_is_wanted(tone: Clip) -> None:
    """120 beats a minute, two of them counted: round, rest, count, round; each where its length puts it."""
    clicks = np.zeros((RATE, 2), np.float32)
    clicks[[0, RATE // 2]] = 1.0
    loop = Loop(tone, 1.0, 2.0, count_in=clicks, count_each=True, rest_s=0.5)
    loop.prepare()
    loud = np.flatnonzero(np.concatenate([loop.clicks(at, 777) for at in range(0, 777 * 500, 777)])[:, 0] > 0.5)
    assert loud[:6] / RATE == pytest.approx([0.0, 0.5, 2.5, 3.0, 5.0, 5.5], abs=1e-6)
    sound = np.concatenate([loop.parts(at, 777) for at in range(0, 777 * 300, 777)])
    silent = [np.abs(sound[round(a * RATE) : round(b * RATE)]).max() == 0 for a, b in ((0, 1), (2, 3.5), (4.5, 5))]
    assert silent == [True] * 3
    assert min(np.abs(sound[round(a * RATE) :][:1_000]).max() for a in (1.1, 1.9, 3.6, 4.4)) > 0.2
    assert loop.time_at(round(3.25 * RATE)) == pytest.approx(0.75, abs=1e-3), "counted in: before its start"
    assert loop.next_round(round(1.2 * RATE)) == round(2.5 * RATE), "its rest over, not yet counted in"
    assert [loop.pass_at(round(at * RATE)) for at in (0.5, 1.0, 3.4, 3.5)] == [0, 1, 1, 2]
