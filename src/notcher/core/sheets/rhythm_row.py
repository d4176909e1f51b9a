"""Rhythm under the strings: stems, beams, flags, dots, rests, ties and tuplets; a second voice in a row of its own.

Without heads a stem's length tells: none for a whole note, half of it for a half note (common practice, no source).
"""

from collections.abc import Sequence
from itertools import pairwise

from notcher.core.score.notation import NotatedPiece
from notcher.core.sheets.column import Column
from notcher.core.sheets.items import Box, Item, bar_fill, sign
from notcher.core.sheets.line import SheetLine
from notcher.core.sheets.smufl import anchor
from notcher.core.sheets.staff import FLAG_NAMES, REST_NAMES, beam_items, tie, tuplet_mark, tuplets_in
from notcher.core.sheets.typeface import sign_extent

FREE, LONG, ROW = 1.0, 2.9, 5.9
"""Staff spaces: from the lowest string's figures to a stem, a stem's length, from row to row."""
FLAG_SCALE, REST_SCALE = 0.72, 0.85  # of the staff's signs, which are for a taller line


def draw_rhythm(line: SheetLine) -> list[Item]:
    """Return the rows of rhythm of one line."""
    drawn: list[Item] = []
    voices = {voice for column in line.columns for voice, _ in column.pieces}
    # the voice with its stems up is the upper row
    for row, voice in enumerate(sorted(voices, key=lambda voice: (_down(line, voice), voice))):
        drawn += _row(line, voice, row)
    return drawn


def _down(line: SheetLine, voice: int) -> bool:
    ups = [piece.up for column in line.columns for own, piece in column.pieces if own == voice]
    return False in ups and True not in ups


def row_top(line: SheetLine, row: int) -> float:
    """Where the stems of a row begin."""
    style = line.engraver.style
    return line.engraver.tab_height + 0.5 * style.tab + (FREE + ROW * row) * style.space


def _row(line: SheetLine, voice: int, row: int) -> list[Item]:
    engraver = line.engraver
    space, top = engraver.style.space, row_top(line, row)
    bottom = top + LONG * space
    signs = [
        (column, piece, x)
        for column, x in zip(line.columns, line.xs, strict=True)
        for own, piece in column.pieces
        if own == voice and not column.extra
    ]
    drawn: list[Item] = []
    groups: dict[tuple[int, int], list[tuple[NotatedPiece, float]]] = {}
    for column, piece, x in signs:
        if piece.beam >= 0:
            groups.setdefault((column.bar, piece.beam), []).append((piece, x))
    joined = {id(piece) for group in groups.values() if len(group) > 1 for piece, _ in group}
    for column, piece, x in signs:
        if piece.rest:
            drawn.append(_rest(line, column, piece, x, voice, row))
        else:
            beamed = id(piece) in joined
            name = f"beam {piece.beam}" if beamed else str(piece.start)
            drawn += _stem(line, piece, x, top, f"row {row} {column.bar} {name}", beamed=beamed)
    for (bar, beam), group in groups.items():
        if len(group) > 1:
            counts = [piece.value.beams for piece, _ in group]
            drawn += beam_items(engraver, [x for _, x in group], counts, bottom, 0.0, towards=-1.0,
                                group=f"row {row} {bar} beam {beam}")  # fmt: skip
    drawn += _ties(line, signs, top, row)
    for bar, number, members in tuplets_in(engraver, line.columns, line.xs):
        if members[0][0] != voice:
            continue
        beams = {piece.beam for _, piece, _ in members}
        beamed = len(beams) == 1 and -1 not in beams
        drawn += tuplet_mark(engraver, number, members[0][2] - 0.5 * space, members[-1][2] + 0.5 * space, bottom,
                             up=False, bracket=not beamed, group=f"row {row} {bar} {members[0][1].tuplet}")  # fmt: skip
    return drawn


def _rest(line: SheetLine, column: Column, piece: NotatedPiece, x: float, voice: int, row: int) -> Item:
    space, name = REST_SCALE * line.engraver.style.space, piece.value.name
    name = "restWhole" if piece.whole_bar else f"rest{REST_NAMES.get(name, name)}"
    ink = sign_extent(name, space)
    middle = row_top(line, row) + LONG / 2 * line.engraver.style.space - (ink.top + ink.bottom) / 2
    return sign("rest", name, x, middle, space=space, group=f"row {row} {column.bar} {piece.start}", anchor=0.5)


def _stem(line: SheetLine, piece: NotatedPiece, x: float, top: float, group: str, *, beamed: bool) -> list[Item]:
    style, value = line.engraver.style, piece.value
    space = style.space
    drawn: list[Item] = [
        sign("dot", "augmentationDot", x + (0.55 + 0.6 * dot) * space, top + 0.5 * space, space=space, group=group,
             anchor=0.0)
        for dot in range(value.dots)
    ]  # fmt: skip
    if value.name == "whole":
        return drawn
    length = (LONG / 2 if value.name == "half" else LONG) * space
    half = style.stem / 2
    drawn.append(bar_fill("stem", Box(x - half, top, x + half, top + length), group=group))
    if value.beams and not beamed:
        name = f"flag{FLAG_NAMES.get(value.name, value.name)}Down"
        size = FLAG_SCALE * space
        dx, dy = anchor(name, "stemDownSW")
        drawn.append(sign("flag", name, x - half - dx * size, top + length + dy * size, space=size, group=group))
    return drawn


def _ties(line: SheetLine, signs: Sequence[tuple[Column, NotatedPiece, float]], top: float, row: int) -> list[Item]:
    """Over the stems; over the end of a line they are drawn to it, and on from its beginning."""
    space, drawn = line.engraver.style.space, []
    for before, after in pairwise([None, *signs, None]):
        leaves = before is not None and before[1].tied_to
        comes = after is not None and after[1].tied_from
        if not (leaves or comes):
            continue
        left = before[2] + 0.25 * space if before is not None and leaves else line.begin + 0.2 * space
        right = after[2] - 0.25 * space if after is not None and comes else line.end - 0.2 * space
        if right - left > 0.4 * space:
            shown = before or after
            start = shown[1].start if shown is not None else 0
            drawn.append(tie(line.engraver, left, right, top - 0.85 * space, 0.75 * space, f"row {row} tie {start}"))
    return drawn
