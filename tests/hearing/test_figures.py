"""Figures that are decided as a whole: a cell that goes round and round, a run, one pitch again and again."""

from types import SimpleNamespace

import numpy as np
import pytest

from notcher.core.hearing import draft
from notcher.core.hearing.analysis import Analysis
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.salience import PITCHES
from notcher.core.hearing.tremolo import with_tremolo
from notcher.core.score import Attack, End, Note, Score
from notcher.core.synthesis import render

QUICK_S = 0.12


def chain(*frets: int, string: int = 2, attacks: str = "") -> tuple[Note, ...]:
    """Quick notes on one string; attacks: a letter each, p pick, h hammer, l pull, t tap."""
    named = {"p": Attack.PICK, "h": Attack.HAMMER, "l": Attack.PULL, "t": Attack.TAP}
    return tuple(
        Note(0.5 + QUICK_S * at, 0.5 + QUICK_S * (at + 1), string, fret, named[how], end=End.RUNS_ON)
        for at, (fret, how) in enumerate(zip(frets, attacks, strict=True))
    )


def attacks(*notes: Note) -> list[tuple[int, Attack]]:
    score = Score(notes)
    heard = draft(render(score, seed=3), tuning=score.tuning).score
    return [(round(heard.fretted_midi(note)) - 59, note.attack) for note in heard.notes]


# The fretting hand spans four or five frets, the other hand plays what lies above (common practice, no source).
def test_the_top_of_a_wide_cell_is_tapped() -> None:
    heard = attacks(*chain(*(5, 8, 12) * 5, attacks="pht" + "lht" * 4))
    tops = [attack for fret, attack in heard if fret == 12]
    assert tops.count(Attack.TAP) >= 4
    assert Attack.TAP not in [attack for fret, attack in heard if fret != 12]


def test_a_run_up_the_string_is_not_tapped() -> None:
    heard = attacks(*chain(5, 7, 8, 10, 12, 13, attacks="phhhhh"))
    assert Attack.TAP not in [attack for _, attack in heard[:5]]


def test_a_single_leap_is_not_tapped() -> None:
    heard = attacks(*chain(5, 8, 7, 5, attacks="phll"), Note(1.1, 1.8, 1, 12))
    assert Attack.TAP not in [attack for _, attack in heard]


def repeated(chances: list[float], *, pace_s: float, shaken_s: float = 0.0) -> np.ndarray:
    """What even strokes on one pitch are taken for; chances: of each stroke, what was heard of it by itself."""
    off = np.random.default_rng(4).normal(0, shaken_s, len(chances))
    moments = np.rint((0.3 + pace_s * np.arange(len(chances)) + off) / HOP_S).astype(np.int64)
    midi = np.full(round(0.6 / HOP_S) + int(moments[-1]), 69.0)
    return with_tremolo(moments, np.array(chances), midi)


# Sixteenths at 120 to 210 beats a minute: 15 / tempo seconds (by arithmetic).
@pytest.mark.parametrize("tempo", [120, 160, 210])
def test_a_stroke_that_is_hardly_heard_belongs_to_its_tremolo(tempo: int) -> None:
    found = repeated([0.99, 0.95, 0.2, 0.99, 0.9, 0.15, 0.98, 0.99], pace_s=15 / tempo, shaken_s=0.003)
    assert np.all(found > 0.5)


def test_slow_strokes_and_other_pitches_tell_nothing() -> None:
    chances = [0.99, 0.95, 0.2, 0.99, 0.9, 0.15, 0.98, 0.99]
    assert repeated(chances, pace_s=0.3).tolist() == chances
    moments = np.arange(20, 20 + 8 * 17, 17)
    run = np.repeat(60.0 + 2 * np.arange(12), 17)
    assert with_tremolo(moments, np.array(chances), run).tolist() == chances


def test_what_does_not_lie_on_the_pace_is_no_stroke() -> None:
    moments = np.array([20, 36, 52, 60, 68, 84, 100])
    chances = np.array([0.9, 0.9, 0.9, 0.3, 0.9, 0.9, 0.9])
    assert with_tremolo(moments, chances, np.full(160, 64.0))[3] == 0.3


def test_a_picture_is_dark_where_nothing_was_measured() -> None:
    """What lies below the pitches looked for is empty, whatever sounds at the top."""
    strength = np.zeros((50, PITCHES), dtype=np.float32)
    strength[:, -12:] = 1.0
    shade = Analysis.picture(SimpleNamespace(strength=strength)).shade  # type: ignore[arg-type]
    assert not shade[:6].any()
    assert shade.max() == 1.0
