"""A solo as one long row of columns: notes that begin together, bar lines, meters; with the room that each needs.

Where no beat is known there are no bars: the notes follow each other by the seconds between them.
"""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from notcher.core.score import TOGETHER_S, Meter
from notcher.core.score.notation import Bar, NotatedPiece
from notcher.core.score.rhythm import TICKS
from notcher.core.sheets.again import Printed
from notcher.core.sheets.choices import Lines
from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.lead import lead_width
from notcher.core.sheets.marks import after_room, left_room, right_room
from notcher.core.sheets.spacing import Gap, spring_of
from notcher.core.sheets.staff import staff_room

AT_PHRASE, AT_BAR, IN_PHRASE, AT_BEAT, IN_BAR = -90.0, 0.0, 60.0, 500.0, 1500.0
"""Penalties of a line's end: at a phrase's, at a bar line, at a bar line within a phrase, in a bar too long for a line
on a beat and elsewhere."""
METER_SCALE = 1.3
"""How much larger a meter is drawn in the tab than in a staff."""
QUARTERS_PER_S = 2.0
"""Where no beat is known, a second takes as much room as two quarters."""


def columns(engraver: Engraver, printed: Sequence[Printed]) -> list[Column]:
    """Return the columns of a solo. printed: its bars as they are printed; none where no beat is known."""
    result = _barred(engraver, printed) if printed else _unbarred(engraver)
    _begin_phrases(engraver, result)
    for column in result:
        _measure(engraver, column)
    _set_penalties(engraver, result)
    return result


def gaps(engraver: Engraver, columns: Sequence[Column]) -> list[Gap]:
    """Return the gap after each column, the last one's to the end of its line."""
    style = engraver.style
    result = []
    for column, following in pairwise([*columns, None]):
        if column is None:
            continue
        ahead = following.left if following is not None else 0.0
        rod = column.right + max(style.gap, column.after) + ahead
        if column.line or column.meter is not None:
            result.append(Gap(column.right + 0.9 * style.space + ahead, 0.0))
        elif column.folded:
            result.append(Gap(rod, 0.0))
        else:
            result.append(Gap(rod, spring_of(column.quarters, style.space)))
    return result


def _barred(engraver: Engraver, printed: Sequence[Printed]) -> list[Column]:
    result: list[Column] = []
    meter: Meter | None = None
    for at, shown in enumerate(printed):
        bar = shown.bar
        if bar.meter != meter:
            result.append(Column(bar.start, 0.0, at, engraver.time_of(bar.start), meter=bar.meter))
            meter = bar.meter
        if shown.opens:
            result.append(Column(bar.start, 0.0, at, engraver.time_of(bar.start), line="begin"))
        if shown.folded:
            length = (bar.end - bar.start) / TICKS
            result.append(Column(bar.start, length, at, engraver.time_of(bar.start), folded=shown.folded))
        else:
            result += _in_bar(engraver, bar, at, shown.says)
        end = "final" if at + 1 == len(printed) else "bar"
        result.append(
            Column(bar.end, 0.0, at, engraver.time_of(bar.end), line="end" if shown.closes else end, says=shown.closes)
        )
    return result


def meter_column(engraver: Engraver, before: Column) -> list[Column]:
    """Return a column that tells the meter again before another one; none where that does or no beat is known."""
    if before.bar < 0 or before.meter is not None:
        return []
    meter = engraver.printed[before.bar].bar.meter
    column = Column(before.start, 0.0, before.bar, before.time_s, meter=meter)
    _measure(engraver, column)
    return [column]


def _in_bar(engraver: Engraver, bar: Bar, at: int, says: str) -> list[Column]:
    starts = sorted({piece.start for voice in bar.voices for piece in voice})
    result = []
    for start, following in pairwise([*starts, bar.end]):
        pieces = [(n, piece) for n, voice in enumerate(bar.voices) for piece in voice if piece.start == start]
        quarters = (following - start) / TICKS if not pieces[0][1].whole_bar else 1.0
        for number, layer in enumerate(_layers(engraver, pieces)):
            result.append(Column(start, quarters if number == 0 else 0.0, at, engraver.time_of(start), layer))
            result[-1].extra = number > 0
        result[-1].quarters = quarters
    if result:
        result[0].says = says
    return result


def _layers(engraver: Engraver, pieces: list[tuple[int, NotatedPiece]]) -> list[list[tuple[int, NotatedPiece]]]:
    """The signs of one place, parted where one string is struck twice on it: what came first stands first."""
    layers: list[list[tuple[int, NotatedPiece]]] = [[]]
    strings_by_layer: list[set[int]] = [set()]
    for voice, piece in pieces:
        placed: dict[int, list[int]] = {}
        for index in piece.indices:
            string = engraver.note(index).string
            at = next(
                (at for at, strings in enumerate(strings_by_layer) if string not in strings), len(strings_by_layer)
            )
            if at == len(strings_by_layer):
                strings_by_layer.append(set())
                layers.append([])
            strings_by_layer[at].add(string)
            placed.setdefault(at, []).append(index)
        if len(placed) < 2 and 0 in (placed or {0: []}):
            layers[0].append((voice, piece))
            continue
        for at, indices in sorted(placed.items()):
            part = replace(piece, indices=tuple(indices))
            layers[at].append((voice, replace(part, tuplet=-1, beam=-1) if at else part))
    return layers


def _unbarred(engraver: Engraver) -> list[Column]:
    """One column a stroke, as far from the next as it sounds."""
    notes, result = engraver.score.notes, []
    groups: list[list[int]] = []
    for index in range(len(notes)):
        strings = {notes[other].string for other in groups[-1]} if groups else set()
        near = groups and notes[index].onset_s - notes[groups[-1][0]].onset_s <= TOGETHER_S
        if near and notes[index].string not in strings:
            groups[-1].append(index)
        else:
            groups.append([index])
    for group, following in pairwise([*groups, []]):
        onset_s = notes[group[0]].onset_s
        end_s = notes[following[0]].onset_s if following else max(notes[index].offset_s for index in group)
        length = round((end_s - onset_s) * QUARTERS_PER_S * TICKS)
        piece = NotatedPiece(round(1e6 * onset_s), max(1, length), tuple(group))
        quarters = float(np.clip(length / TICKS, 0.12, 2.5))
        result.append(Column(piece.start, quarters, -1, onset_s, [(0, piece)]))
    return result


def _begin_phrases(engraver: Engraver, columns: Sequence[Column]) -> None:
    """Say at which column each phrase begins: where the first of its notes is struck."""
    score, firsts = engraver.score, {}
    for phrase in score.phrases:
        inside = score.notes_of(phrase)
        if len(inside) and inside[0] not in firsts:
            firsts[inside[0]] = phrase
    for column in columns:
        begun = [firsts[index] for index in column.indices if index in firsts]
        if column.folded:
            end = column.start + column.quarters * TICKS
            begun = [
                firsts[index]
                for index, time in enumerate(engraver.times)
                if column.start <= time.onset < end and index in firsts
            ]
        column.phrase = begun[0] if begun else None


def _measure(engraver: Engraver, column: Column) -> None:
    style = engraver.style
    if column.line:
        column.left, column.right = _line_room(engraver, column.line)
    elif column.meter is not None:
        digits = max(len(str(column.meter.beats)), len(str(column.meter.unit)))
        column.left = column.right = (0.95 * METER_SCALE * digits + 0.1) * style.space
    elif column.folded:
        half = engraver.folded_width(column.folded) / 2
        column.left = column.right = half + style.gap
    else:
        left, right = left_room(engraver, column), right_room(engraver, column)
        if engraver.staff:
            other = staff_room(engraver, column)
            left, right = max(left, other[0]), max(right, other[1])
        column.left, column.right, column.after = left, right, after_room(engraver, column)


def _line_room(engraver: Engraver, kind: str) -> tuple[float, float]:
    style = engraver.style
    thin, thick, dots = style.thin_bar, style.thick_bar, 1.0 * style.space
    left = {"bar": 0.0, "final": 0.45 * style.space + thin, "begin": 0.0, "end": 0.45 * style.space + thin + dots}
    right = {"bar": thin, "final": thick, "begin": thick + 0.45 * style.space + dots, "end": thick}
    return left[kind], right[kind]


def _set_penalties(engraver: Engraver, columns: Sequence[Column]) -> None:
    """Say what it costs to end a line after each column."""
    by_phrase = engraver.choices.lines is Lines.PHRASES
    phrases = bool(engraver.score.phrases)
    rods: dict[int, float] = {}
    free = engraver.line_width - lead_width(engraver, 0.0, first=True) - 3 * engraver.style.space
    for column, gap in zip(columns, gaps(engraver, columns), strict=True):
        rods[column.bar] = rods.get(column.bar, 0.0) + gap.rod
    for at, column in enumerate(columns):
        following = next((other for other in columns[at + 1 : at + 4] if other.pieces or other.folded), None)
        new = following is not None and following.phrase is not None
        too_long = column.bar < 0 or rods[column.bar] > free
        if column.line in ("bar", "end", "final"):
            column.penalty = AT_PHRASE if new and by_phrase else IN_PHRASE if by_phrase and phrases else AT_BAR
        elif (column.pieces or column.folded) and new and by_phrase and following is columns[at + 1]:
            column.penalty = AT_PHRASE
        elif (
            column.pieces
            and too_long
            and at + 1 < len(columns)
            and columns[at + 1].pieces
            and not columns[at + 1].extra
        ):
            on_beat = column.bar >= 0 and engraver.on_beat(columns[at + 1].start)
            column.penalty = AT_BAR + 20 if column.bar < 0 else AT_BEAT if on_beat else IN_BAR
