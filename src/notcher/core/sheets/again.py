"""Bars that come again as they are written: the same, or the same so many frets up; what need not be printed twice.

Compared is what stands on the page, written values, strings, frets and marks, so that what is said of a bar is true
of the print.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from notcher.core.score import Score, snapped_bend
from notcher.core.score.notation import Bar
from notcher.core.sheets.choices import Repeats
from notcher.core.words import bar_words, many_frets

LONGEST_TURN = 4
"""Bars of a figure that is played over and over."""
LEAST_NOTES = 3
"""A bar of fewer notes is not worth a word."""


@dataclass(frozen=True, slots=True)
class Printed:
    """A bar as it is printed. opens: a repeat begins here. closes: how often what is repeated is played, in words.
    folded: what is printed instead of its notes. says: what it is the same as."""

    bar: Bar
    opens: bool = False
    closes: str = ""
    folded: str = ""
    says: str = ""


Sign = tuple[int, int, int, bool, tuple[tuple[object, ...], ...]]
"""Start in the bar, length, voice, whether it is tied on, and its notes."""


def bar_signs(score: Score, names: Sequence[tuple[str, ...]], bar: Bar) -> tuple[Sign, ...]:
    """Return what stands in a bar, in values that are equal when the print is."""
    signs = []
    for voice, pieces in enumerate(bar.voices):
        for piece in pieces:
            notes = []
            for index in piece.indices:
                note = score.notes[index]
                size = snapped_bend(note.reading.bend_semitones) if note.bent else 0.0
                doubted = note.id if note.doubt else ""  # what is doubted is never left out
                marks = (names[index], size, note.end, note.garnish, note.slip, note.remark, doubted)
                notes.append((note.string, note.fret, *marks))
            signs.append((piece.start - bar.start, piece.length, voice, piece.tied_from, tuple(sorted(notes))))
    return tuple(signs)


def frets_between(first: Sequence[Sign], second: Sequence[Sign]) -> int | None:
    """Return by how many frets the second is the first moved along the neck, 0 for the same; None if it is not.

    Open strings do not move.
    """
    if len(first) != len(second):
        return None
    moved: int | None = None
    for a, b in zip(first, second, strict=True):
        if a[:4] != b[:4] or len(a[4]) != len(b[4]):
            return None
        for mine, other in zip(a[4], b[4], strict=True):
            by = int(other[1]) - int(mine[1])  # type: ignore[call-overload]
            if (mine[0], *mine[2:]) != (other[0], *other[2:]) or (moved is not None and by != moved):
                return None
            if by and 0 in (mine[1], other[1]):
                return None
            moved = by
    return moved


def printed_bars(
    score: Score, names: Sequence[tuple[str, ...]], bars: Sequence[Bar], repeats: Repeats
) -> list[Printed]:
    """Return the bars as they are printed."""
    if repeats is Repeats.WRITTEN:
        return [Printed(bar) for bar in bars]
    signs = [bar_signs(score, names, bar) for bar in bars]
    result: list[Printed] = []
    at = 0
    while at < len(bars):
        turn, times = _turns(signs, at) if repeats is Repeats.FOLDED else (1, 1)
        if times > 1:
            shown = [Printed(bar) for bar in bars[at : at + turn]]
            shown[0] = Printed(bars[at], opens=True, closes=shown[0].closes)
            shown[-1] = Printed(shown[-1].bar, opens=turn == 1, closes=f"{times} times")
            result += shown
            at += turn * times
            continue
        length, text = _seen(bars, signs, at)
        if length and repeats is Repeats.FOLDED and text:
            name = bar_words(bars[at].number, bars[at + length - 1].number)
            result.append(Printed(_spanning(bars[at : at + length]), folded=f"{name}: {text}"))
            at += length
        else:
            result.append(Printed(bars[at], says=text if length else ""))
            result += [Printed(bar) for bar in bars[at + 1 : at + max(1, length)]]
            at += max(1, length)
    return result


def _spanning(bars: Sequence[Bar]) -> Bar:
    """One bar in the place of several, for what is not printed."""
    first, last = bars[0], bars[-1]
    return Bar(first.number, first.start, last.end, last.meter, first.pieces)


def _turns(signs: Sequence[tuple[Sign, ...]], at: int) -> tuple[int, int]:
    """The bars from one on that are played over and over at once: how many, and how often."""
    best = (1, 1)
    for turn in range(1, LONGEST_TURN + 1):
        times = 1
        figure = signs[at : at + turn]
        if sum(len(sign[4]) for signs_of in figure for sign in signs_of) < LEAST_NOTES:
            continue
        while [*signs[at + times * turn : at + (times + 1) * turn]] == [*figure] and len(figure) == turn:
            times += 1
        if times > 1 and turn * times > best[0] * best[1]:
            best = (turn, times)
    return best


def _seen(bars: Sequence[Bar], signs: Sequence[tuple[Sign, ...]], at: int) -> tuple[int, str]:
    """For how many bars from one on the print is the same as earlier, and as what; 0 where it is not."""
    if sum(len(sign[4]) for sign in signs[at]) < LEAST_NOTES:
        return 0, ""
    best, text = 0, ""
    for before in range(at):
        frets = frets_between(signs[before], signs[at])
        if frets is None or bars[before].meter != bars[at].meter:
            continue
        length = 1
        while before + length < at and at + length < len(bars) and _follows(signs, before, at, length, frets):
            length += 1
        if length > best:
            name = bar_words(bars[before].number, bars[before + length - 1].number)
            best, text = length, f"as {name}" + (f", {many_frets(frets)}" if frets else "")
    return best, text


def _follows(signs: Sequence[tuple[Sign, ...]], before: int, at: int, length: int, frets: int) -> bool:
    return bool(signs[at + length]) and frets_between(signs[before + length], signs[at + length]) == frets
