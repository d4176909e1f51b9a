"""Figures that are decided as a whole: a cell that goes round and round, a run that does not."""

from notcher.core.hearing import draft
from notcher.core.proving import render
from notcher.core.score import Attack, End, Note, Score

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
