"""One line of a sheet: its strings, its staff, everything over and under them. y = 0 is the highest string."""

from collections.abc import Sequence
from dataclasses import dataclass

from notcher.core.score import Meter
from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.flow import METER_SCALE, gaps
from notcher.core.sheets.heads import key_signs
from notcher.core.sheets.items import Box, Ink, Item, bar_fill, bounds, moved, sign, stroke, words
from notcher.core.sheets.lead import CLEF_GAP, KEY_SIGN, LABEL, clef_width, lead_width, tab_clef
from notcher.core.sheets.line import SheetLine
from notcher.core.sheets.marks import (
    FOOT,
    HOOK_ROOM,
    Curve,
    beside,
    curled,
    drawn_curve,
    ends_width,
    figure,
    held_figure,
    hook,
    shaped,
    size_words,
    wave,
    wave_height,
)
from notcher.core.sheets.over_under import draw_over, draw_titles, draw_under
from notcher.core.sheets.rhythm_row import draw_rhythm
from notcher.core.sheets.skyline import Skyline
from notcher.core.sheets.spacing import spaced
from notcher.core.sheets.staff import STAFF_HEIGHT, draw_staff, staff_y
from notcher.core.sheets.typeface import Typeface, sign_extent
from notcher.core.words import StringNames, string_letter

STAFF_APART = 1.6
"""Least room between staff and strings."""


@dataclass(frozen=True, slots=True)
class System:
    """A line that is ready to be put on a page; its edges, y."""

    items: tuple[Item, ...]
    top: float
    bottom: float

    @property
    def height(self) -> float:
        return self.bottom - self.top


def build_system(engraver: Engraver, columns: Sequence[Column], *, first: bool, sections: bool = True) -> System:
    """Draw one line. first: of the sheet, so that it has a clef. sections: whether they are named."""
    lead = lead_width(engraver, columns[0].time_s, first=first) + columns[0].left
    xs, end = _places(engraver, columns, lead)
    line = SheetLine(engraver, columns, xs, LABEL * engraver.style.space, end)
    items = [*_lines(line), *_labels(line), *_clef(line, first=first)]
    for column, x in zip(columns, xs, strict=True):
        items += _column(line, column, x)
    notes = _struck(line)
    over = Skyline(up=True, ground=-0.5 * engraver.style.tab, apart=engraver.style.gap)
    items += notes
    for item in items:
        over.add(item)
    items += _gestures(line, over)
    items += draw_over(line, over)
    under = Skyline(up=False, ground=engraver.tab_height + 0.5 * engraver.style.tab, apart=engraver.style.gap)
    for item in items:
        under.add(item)
    if engraver.staff:
        staff = _staff(line, over, first=first)
        for item in staff:
            over.add(item)
        items += staff
    elif engraver.choices.rhythm and engraver.bars:
        rows = draw_rhythm(line)
        for item in rows:
            under.add(item)
        items += rows
    items += draw_titles(line, over, sections=sections)
    items += draw_under(line, under)
    box = bounds(items)
    return System(tuple(items), box.top, box.bottom)


def _places(engraver: Engraver, columns: Sequence[Column], lead: float) -> tuple[list[float], float]:
    """Where each column stands, and where the line ends."""
    between = gaps(engraver, columns)
    last = columns[-1]
    if last.line:
        inner, tail = between[:-1], last.right
    else:
        inner, tail = between, 0.0
    at = spaced(inner, engraver.line_width - lead - tail) + lead
    # what does not fit into the widest line is pressed together rather than cut off
    limit = engraver.line_width - tail
    if at[-1] > limit + 1e-6:
        at = lead + (at - lead) * (limit - lead) / (at[-1] - lead)
    xs = at.tolist() if last.line else at.tolist()[:-1]
    return xs, float(at[-1]) + tail


# --- the ground ---
def _lines(line: SheetLine) -> list[Item]:
    engraver, style = line.engraver, line.engraver.style
    ys = [engraver.string_y(string) for string in range(1, engraver.strings + 1)]
    drawn: list[Item] = [
        stroke("string", [(line.begin, y), (line.end, y)], style.line, group="", ink=Ink.HAIR) for y in ys
    ]
    thin = Box(line.begin, -style.line / 2, line.begin + style.thin_bar, engraver.tab_height + style.line / 2)
    return [*drawn, bar_fill("barline", thin, group="")]


def _labels(line: SheetLine) -> list[Item]:
    """What each string is called, beside it."""
    engraver, style = line.engraver, line.engraver.style
    size, drawn = 0.8 * style.small, []
    for string in range(1, engraver.strings + 1):
        by_number = engraver.naming.strings is StringNames.NUMBERS
        text = str(string) if by_number else string_letter(engraver.score.tuning, string, engraver.naming)
        x, y = line.begin - 0.5 * style.space, engraver.string_y(string) + 0.36 * size
        name = f"name {string}"
        drawn.append(
            words("string name", text, x, y, face=Typeface.FIGURE, size=size, group=name, anchor=1.0, ink=Ink.SOFT)
        )
    return list(drawn)


def _clef(line: SheetLine, *, first: bool) -> list[Item]:
    engraver, style = line.engraver, line.engraver.style
    if not (first or engraver.staff):
        return []
    name, size = tab_clef(engraver)
    extent = sign_extent(name, size)
    middle = engraver.tab_height / 2 - (extent.bottom + extent.top) / 2
    return [sign("clef", name, line.begin + CLEF_GAP * style.space, middle, space=size, group="clef", anchor=0.0)]


def _column(line: SheetLine, column: Column, x: float) -> list[Item]:
    """A bar line, a meter, or what is printed instead of bars that come again."""
    engraver, style = line.engraver, line.engraver.style
    if column.line:
        return _bar_line(engraver, column.line, x, 0.0, engraver.tab_height, engraver.style.tab)
    if column.meter is not None:
        return _meter(engraver, column.meter, x, engraver.tab_height / 2, METER_SCALE * style.space, "meter")
    if column.folded:
        half = engraver.folded_width(column.folded) / 2
        middle = engraver.tab_height / 2
        box = Box(x - half, middle - 1.5 * style.space, x + half, middle + 1.5 * style.space)
        text = words("folded", column.folded, x, middle + 0.35 * style.text, face=Typeface.TEXT_BOLD, size=style.text,
                     group=f"folded {column.start}", anchor=0.5, plate=True)  # fmt: skip
        corners = [(box.left, box.top), (box.right, box.top), (box.right, box.bottom), (box.left, box.bottom)]
        return [stroke("folded", [*corners, corners[0]], style.line, group=text.group), text]
    return []


def _bar_line(engraver: Engraver, kind: str, x: float, top: float, height: float, step: float) -> list[Item]:
    """x: where the bar ends."""
    style = engraver.style
    thin, thick, apart = style.thin_bar, style.thick_bar, 0.45 * style.space
    low, high = top + height + style.line / 2, top - style.line / 2
    middle = top + height / 2
    spots = [] if kind in ("bar", "final") else [middle - step, middle + step]
    if kind == "bar":
        return [bar_fill("barline", Box(x, high, x + thin, low), group="")]
    if kind == "begin":
        left, dots = x, x + thick + apart + thin + 0.35 * style.space
        edges = [(left, left + thick), (left + thick + apart, left + thick + apart + thin)]
    else:
        dots = x - apart - thin - 0.75 * style.space
        edges = [(x - apart - thin, x - apart), (x, x + thick)]
    drawn: list[Item] = [bar_fill("barline", Box(a, high, b, low), group="") for a, b in edges]
    return [
        *drawn,
        *(sign("repeat", "repeatDot", dots, y, space=style.space, group="", anchor=0.0) for y in spots),
    ]


def _meter(engraver: Engraver, meter: Meter, x: float, middle: float, space: float, group: str) -> list[Item]:
    """Two figures above each other, a hair apart over the middle."""
    drawn: list[Item] = []
    for number, y in ((meter.beats, middle - space), (meter.unit, middle + space)):
        rooms = [sign_extent(f"timeSig{digit}", space) for digit in str(number)]
        at = x - sum(room.advance for room in rooms) / 2
        for digit, room in zip(str(number), rooms, strict=True):
            drawn.append(sign("meter", f"timeSig{digit}", at, y, space=space, group=group))
            at += room.advance
    return drawn


# --- notes ---
def _struck(line: SheetLine) -> list[Item]:
    """Every figure with what stands beside it; a reminder of what goes on from the line before."""
    engraver, drawn, shown = line.engraver, [], False
    for column, x in zip(line.columns, line.xs, strict=True):
        for index in column.indices:
            group = f"note {index}"
            drawn += figure(engraver, index, x, group)
            drawn += beside(engraver, index, x, group)
        if column.held and not shown:
            drawn += [held_figure(engraver, index, x, f"held {index}") for index in column.held]
        shown = shown or bool(column.pieces)
    return drawn


def _gestures(line: SheetLine, over: Skyline) -> list[Item]:
    """Pitch curves, their sizes, and vibratos; the outline over the strings takes them in."""
    engraver = line.engraver
    style, drawn = engraver.style, []
    waves: list[tuple[int, float, float]] = []
    curves: list[tuple[Curve, str]] = []
    for at, column in enumerate(line.columns):
        bent = [index for index in column.indices if shaped(engraver, index)]
        begin, near = line.xs[at] + column.right + 0.2 * style.space, line.free_until(at)
        if any(curled(engraver, index) for index in column.indices):
            begin += HOOK_ROOM * style.space
        bent.sort(key=lambda index: -engraver.note(index).string)
        for place, index in enumerate(bent):
            foot = FOOT * style.space if "prebend" in engraver.names[index] else 0.0
            start = begin + foot + 0.8 * place * style.space
            ends = ends_width(engraver, index) * style.space
            end = _end_of(line, at, index, near) - ends
            curve = Curve(engraver, index, start, max(end, start + 0.5 * style.space), near - ends)
            curve.top -= 1.7 * (len(bent) - 1 - place) * style.space
            curves.append((curve, f"curve {column.bar} {column.start}"))
            if "vibrato" in engraver.names[index]:
                waves.append((len(curves) - 1, start, end))
        for index in column.indices:
            names = engraver.names[index]
            if index in bent:
                continue
            if curled(engraver, index):
                half = column.right + 0.15 * style.space
                drawn.append(hook(engraver, index, line.xs[at] + half, f"note {index}"))
            if "vibrato" in names:
                waves.append((-1 - index, line.xs[at], _end_of(line, at, index, near)))
    for curve, group in curves:
        drawn += drawn_curve(curve, group)
    for item in drawn:
        over.add(item)
    waves.sort(
        key=lambda told: told[0] < 0 or not _on_curve(line, curves[told[0]][0], told[2])
    )  # these have their place
    for number, start, end in waves:
        item = _wave(line, over, curves, number, start, end)
        drawn.append(item)
        over.add(item)
    for curve, group in curves:
        size = size_words(curve, 0.0, group)
        edge = over.edge(size.box.left, size.box.right)
        size = size_words(curve, min(edge, curve.tip[1]) - 0.35 * style.space, group)
        drawn.append(size)
        over.add(size)
    return drawn


def _end_of(line: SheetLine, at: int, index: int, near: float) -> float:
    """Across where a note ends: before the next column where it ends there; over others where they begin meanwhile
    and nothing is drawn over them."""
    note = line.engraver.note(index)
    later = [other for other in range(at + 1, len(line.columns)) if line.columns[other].pieces]
    inside = [other for other in later if line.columns[other].time_s < note.offset_s - 0.06]
    if not inside:
        return near
    moving = ("bend", "prebend", "dip", "dive", "vibrato", "curl")
    for other in inside:
        column = line.columns[other]
        if any(name in line.engraver.names[struck] for struck in column.indices for name in moving):
            return line.free_until(other - 1) if other - 1 > at else near
        if any(line.engraver.note(struck).string == note.string for struck in column.indices):
            return near
    return max(near, min(line.x_at(note.offset_s), line.free_until(inside[-1])))


def _on_curve(line: SheetLine, curve: Curve, end: float) -> bool:
    """Whether a vibrato has room behind the end of a curve, over the strings."""
    style = line.engraver.style
    x, y = curve.points()[-1]
    return end - x > 1.3 * style.space and y <= -0.5 * style.tab - wave_height(line.engraver, curve.note) / 2


def _wave(
    line: SheetLine, over: Skyline, curves: Sequence[tuple[Curve, str]], number: int, start: float, end: float
) -> Item:
    """A vibrato: on the level that its curve ends on where there is room, else over what is there."""
    engraver, style = line.engraver, line.engraver.style
    index = curves[number][0].index if number >= 0 else -1 - number
    note = engraver.note(index)
    vibrato = note.vibrato
    high = wave_height(engraver, note)
    if number >= 0:
        curve, group = curves[number]
        if _on_curve(line, curve, end):
            x, y = curve.points()[-1]
            return wave(engraver, note, x, end, y, group)
    share = 0.0 if vibrato is None else min(vibrato.from_s / max(note.duration_s, 1e-6), 1.0)
    left = min(start + share * (end - start), end - 1.6 * style.space)
    left = max(left, line.begin)
    right = max(end, left + 1.3 * style.space)
    y = over.edge(left, right) - 0.3 * style.space - high / 2
    return wave(engraver, note, left, right, y, f"wave {index}")


# --- the staff ---
def _staff(line: SheetLine, over: Skyline, *, first: bool) -> list[Item]:
    """The staff of notes, as near over the strings as nothing touches."""
    engraver, style = line.engraver, line.engraver.style
    space = style.space
    drawn: list[Item] = []
    for column, across in zip(line.columns, line.xs, strict=True):
        if column.line:
            drawn += _bar_line(engraver, column.line, across, 0.0, STAFF_HEIGHT * space, 0.5 * space)
        elif column.meter is not None:
            drawn += _meter(engraver, column.meter, across, 2 * space, space, f"staff meter {column.start}")
    drawn += draw_staff(engraver, line.columns, line.xs, line.begin_of(0) - 0.6 * space, line.end, drawn)
    for y in range(5):
        drawn.append(stroke("staff", [(line.begin, y * space), (line.end, y * space)], style.line, group="",
                            ink=Ink.HAIR))  # fmt: skip
    drawn.append(bar_fill("barline", Box(line.begin, -style.line / 2, line.begin + style.thin_bar,
                                         4 * space + style.line / 2), group=""))  # fmt: skip
    x = line.begin + CLEF_GAP * space
    drawn.append(sign("clef", "gClef8vb", x, 3 * space, space=space, group="clef", anchor=0.0))
    x += clef_width(engraver) + CLEF_GAP * space
    for number, (name, step) in enumerate(key_signs(engraver.written_key(line.columns[0].time_s))):
        drawn.append(sign("key", name, x + number * KEY_SIGN * space, staff_y(engraver, step), space=space,
                          group="key", anchor=0.0))  # fmt: skip
    drop = 0.0
    for item in drawn:  # how far up it has to be
        if item.kind != "barline":
            edge = over.edge(item.box.left, item.box.right)
            drop = max(drop, item.box.bottom - edge + (STAFF_APART if not item.group else 0.5) * space)
    return [moved(item, -drop) for item in drawn]
