"""Our marks of how a note is played, each drawn from what was measured, and the room they take.

Left of a figure stands how it is struck, right of it how it ends; between it and the next column its pitch curve is
drawn to scale: across in the note's own time, upwards by its semitones.
"""

from collections.abc import Sequence

import numpy as np

from notcher.core.score import Attack, End, Note, Tone
from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.items import Box, Ink, Item, Point, Words, bar_fill, fill, stroke, words
from notcher.core.sheets.typeface import Typeface, extent
from notcher.core.words import bend_name

WEDGE, TAPS, STAIRS, FROM, RING, SWELL, RAKE, AWAY, CHOKE, TRAIL = 0.9, 1.75, 1.6, 1.4, 0.85, 1.2, 1.5, 1.4, 0.55, 1.2
"""Widths of the marks, staff spaces."""
APART = 0.18  # between marks
CURVE_ROOM, RELEASE_ROOM, WAVE_ROOM, HOOK_ROOM = 2.1, 1.5, 2.0, 1.1  # spaces over or beside the number
LOWEST_TOP, SEMITONE = 1.0, 0.42
"""How far above the highest string's figures a curve's top lies: at least, and for each semitone; staff spaces."""
HEAD = 0.42  # half of an arrow's head
FOOT = 0.35  # half of the foot under what was bent before it was struck
WAVE_LENGTH = 0.62  # the shortest that is still seen as a wave
EXTENT = (0.16, 0.6, 80.0)
"""A vibrato's height on the page: at least and at most, staff spaces, and the extent in cents that is drawn highest."""
STEPS_SHOWN = 4  # stairs of the sign for a long slide


# --- room ---
def left_room(engraver: Engraver, column: Column) -> float:
    """Return what a column's figures and what stands before them need left of its middle."""
    space = engraver.style.space
    rooms = [figure_half(engraver, index) + _before_width(engraver, index) * space for index in column.indices]
    rooms += [_held_half(engraver, index) for index in column.held]
    return max(rooms, default=0.6 * space)


def right_room(engraver: Engraver, column: Column) -> float:
    """Return what a column's figures and what stands behind them need right of its middle."""
    space = engraver.style.space
    rooms = [figure_half(engraver, index) + _behind_width(engraver, index) * space for index in column.indices]
    rooms += [_held_half(engraver, index) for index in column.held]
    for _, piece in column.pieces:
        flag = 1.2 if piece.value.beams and piece.beam < 0 and not piece.rest else 0.0
        rooms.append(max(0.6 + 0.6 * piece.value.dots, flag) * space)
    return max(rooms, default=0.6 * space)


def after_room(engraver: Engraver, column: Column) -> float:
    """Return what pitch curves need between a column and the next."""
    bent = [index for index in column.indices if shaped(engraver, index)]
    rooms = [_curve_width(engraver, index) + 0.8 * (len(bent) - 1) for index in bent]
    hooks = HOOK_ROOM if any(curled(engraver, index) for index in column.indices) else 0.0
    return (max(rooms, default=0.0) + hooks) * engraver.style.space


def curled(engraver: Engraver, index: int) -> bool:
    """Whether a note has the small hook of a curl, and no larger curve."""
    return "curl" in engraver.names[index] and not shaped(engraver, index)


def figure_text(note: Note) -> str:
    return "×" if note.tone is Tone.DEAD else str(note.fret)


def figure_half(engraver: Engraver, index: int) -> float:
    """Half the width of a fret's figure, with the plate of a harmonic around it."""
    note = engraver.note(index)
    room = extent(figure_text(note), _face(note), engraver.style.figure)
    plate = 0.45 if harmonic(note) else 0.0
    struck = 0.35 if note.slip else 0.0
    return (room.right - room.left) / 2 + max(plate, struck) * engraver.style.space


def _held_half(engraver: Engraver, index: int) -> float:
    room = extent(f"({engraver.note(index).fret})", Typeface.FIGURE, 0.85 * engraver.style.figure)
    return (room.right - room.left) / 2


def harmonic(note: Note) -> bool:
    return note.tone in (Tone.NATURAL_HARMONIC, Tone.TAPPED_HARMONIC, Tone.SQUEAL_HARMONIC)


def _face(note: Note) -> Typeface:
    return Typeface.FIGURE if note.garnish else Typeface.FIGURE_BOLD


def ink_of(note: Note) -> Ink:
    return Ink.SOFT if note.garnish else Ink.FULL


def before(engraver: Engraver, index: int) -> list[tuple[str, float]]:
    """Return the marks that stand before a note's figure, the nearest first, and their widths in staff spaces."""
    note, names = engraver.note(index), engraver.names[index]
    marks: list[tuple[str, float]] = []
    if note.attack in (Attack.HAMMER, Attack.PULL):
        marks.append((note.attack.value, WEDGE))
    elif note.attack is Attack.TAP or note.tone is Tone.TAPPED_HARMONIC:
        marks.append(("tap", TAPS))
    elif note.attack is Attack.REPICK:
        marks.append(("repick", RING))
    elif note.attack is Attack.SWELL:
        marks.append(("swell", SWELL))
    if "slide_in" in names:
        marks.append(("slide_in", FROM))
    elif "slide" in names:
        marks.append(("slide", STAIRS))
    if note.raked:
        marks.append(("rake", RAKE))
    return marks


def behind(engraver: Engraver, index: int) -> list[tuple[str, float]]:
    """Return the marks that stand behind a note's figure, the nearest first; a curve takes them to its own end."""
    note = engraver.note(index)
    marks: list[tuple[str, float]] = []
    if note.end is End.CHOKED:
        marks.append(("choked", CHOKE))
    elif note.end is End.SLIDES_AWAY:
        marks.append(("slide_out", AWAY))
    elif note.end is End.RINGS and not shaped(engraver, index):
        marks.append(("rings", TRAIL))
    return marks


def shaped(engraver: Engraver, index: int) -> bool:
    """Whether a note's pitch moves so that its curve is drawn from its figure on."""
    return bool({"bend", "prebend", "dip", "dive"} & set(engraver.names[index]))


def _before_width(engraver: Engraver, index: int) -> float:
    return sum(width + APART for _, width in before(engraver, index))


def _behind_width(engraver: Engraver, index: int) -> float:
    if shaped(engraver, index):
        return 0.0
    return sum(width + APART for _, width in behind(engraver, index))


def _curve_width(engraver: Engraver, index: int) -> float:
    names = engraver.names[index]
    width = CURVE_ROOM + ends_width(engraver, index) + (RELEASE_ROOM if "release" in names else 0.0)
    foot = 2 * FOOT if "prebend" in names else 0.0
    return width + foot + (WAVE_ROOM if "vibrato" in names else 0.0)


def ends_width(engraver: Engraver, index: int) -> float:
    """How much room the marks behind a note take at the end of its curve, staff spaces."""
    return sum(width + 0.5 for _, width in behind(engraver, index))


# --- a note ---
def figure(engraver: Engraver, index: int, x: float, group: str) -> list[Item]:
    """Return a note's figure with its middle at x, and the plate of a harmonic around it."""
    note, style = engraver.note(index), engraver.style
    y = engraver.string_y(note.string)
    text, face = figure_text(note), _face(note)
    digit = extent("8", face, style.figure)
    base = y + (digit.bottom - digit.top) / 2 - digit.bottom
    drawn: list[Item] = [
        words(
            "fret", text, x, base, face=face, size=style.figure, group=group, anchor=0.5, ink=ink_of(note), plate=True
        )
    ]
    if harmonic(note):
        drawn.append(_plate(engraver, index, x, group))
    if note.slip:
        box = drawn[0].box
        drawn.append(
            stroke("slip", [(box.left - 0.2 * style.space, box.bottom), (box.right + 0.2 * style.space, box.top)],
                   style.mark, group=group)
        )  # fmt: skip
    return drawn


def _plate(engraver: Engraver, index: int, x: float, group: str) -> Item:
    """A tag around a harmonic's figure, as in the tab on the screen: a point at its right, two for a squeal."""
    note, style = engraver.note(index), engraver.style
    room = extent(figure_text(note), _face(note), style.figure)
    half, y, high = (room.right - room.left) / 2 + 0.2 * style.space, engraver.string_y(note.string), 0.44 * style.tab
    right, tip = x + half, x + half + 0.25 * style.space
    side: list[Point] = [(right, y - high), (tip, y), (right, y + high)]
    if note.tone is Tone.SQUEAL_HARMONIC:
        side = [(right, y - high), (tip, y - high / 2), (right, y), (tip, y + high / 2), (right, y + high)]
    left = x - half - 0.12 * style.space
    points = [(left, y - high), *side, (left, y + high), (left, y - high)]
    return stroke("harmonic", points, style.line, group=group, ink=ink_of(note))


def held_figure(engraver: Engraver, index: int, x: float, group: str) -> Words:
    """Return the reminder of a note that goes on from the line before."""
    note, size = engraver.note(index), 0.85 * engraver.style.figure
    digit = extent("8", Typeface.FIGURE, size)
    base = engraver.string_y(note.string) + (digit.bottom - digit.top) / 2 - digit.bottom
    return words("held", f"({note.fret})", x, base, face=Typeface.FIGURE, size=size, group=group, anchor=0.5,
                 ink=Ink.SOFT, plate=True)  # fmt: skip


def beside(engraver: Engraver, index: int, x: float, group: str) -> list[Item]:
    """Return the marks before and behind a note's figure whose middle is at x."""
    note, style = engraver.note(index), engraver.style
    y, drawn = engraver.string_y(note.string), []
    at = x - figure_half(engraver, index)
    for name, width in before(engraver, index):
        at -= (width + APART) * style.space
        drawn += mark(name, at + APART / 2 * style.space, y, engraver, note, group, up=engraver.rises[index])
    if not shaped(engraver, index):
        at = x + figure_half(engraver, index)
        for name, width in behind(engraver, index):
            drawn += mark(name, at + APART * style.space, y, engraver, note, group, up=False)
            at += (width + APART) * style.space
    return drawn


def mark(name: str, x: float, y: float, engraver: Engraver, note: Note, group: str, *, up: bool) -> list[Item]:
    """Return one mark with its left edge at x, on a string at y."""
    space, pen, ink = engraver.style.space, engraver.style.mark, ink_of(note)
    tall = 0.42 * engraver.style.tab
    if name in ("hammer", "pull", "tap"):
        tips = (0.0, 0.85) if name == "tap" else (0.0,)
        half = (WEDGE - 2 * APART / 2) * space / 2
        high = -tall if name != "pull" else tall
        return [
            fill(name, [(x + at * space, y - high / 2), (x + at * space + 2 * half, y - high / 2),
                        (x + at * space + half, y + high / 2)], group=group, ink=ink)
            for at in tips
        ]  # fmt: skip
    if name == "repick":
        radius = (RING * space - pen) / 2 - APART / 2 * space
        turns = np.linspace(0, 2 * np.pi, 17)
        ring = [(x + radius + pen / 2 + radius * np.cos(t), y + radius * np.sin(t)) for t in turns]
        return [stroke(name, [(float(a), float(b)) for a, b in ring], 0.7 * pen, group=group, ink=ink)]
    if name == "swell":
        wide = (SWELL - APART) * space
        return [stroke(name, [(x + wide, y - tall / 2), (x, y), (x + wide, y + tall / 2)], 0.7 * pen, group=group,
                       ink=ink)]  # fmt: skip
    if name == "rake":
        step = (RAKE - APART) * space / 3
        return [
            stroke(name, [(x + at * step, y + tall / 2), (x + (at + 0.7) * step, y - tall / 2)], 0.7 * pen, group=group,
                   ink=ink)
            for at in range(3)
        ]  # fmt: skip
    if name == "choked":
        return [bar_fill(name, Box(x, y - tall, x + 0.3 * space, y + tall), group=group, ink=ink)]
    if name == "rings":
        wide = (TRAIL - APART) * space
        return [stroke(name, [(x, y), (x + wide, y)], 1.2 * pen, group=group, ink=ink, dash=(1.0, 1.2))]
    widths = {"slide": STAIRS, "slide_in": FROM, "slide_out": AWAY}
    steps = 3 if name != "slide" else STEPS_SHOWN
    points = _stairs(x, y, (widths[name] - APART) * space, tall, steps, up=up)
    dash = (1.6, 1.2) if name == "slide_in" else ()
    return [stroke(name, points, 0.8 * pen, group=group, ink=ink, dash=dash)]


def _stairs(x: float, y: float, wide: float, tall: float, steps: int, *, up: bool) -> list[Point]:
    """A staircase: the string is left in steps, as frets are."""
    sign = -1.0 if up else 1.0
    level = y - sign * tall / 2
    points = [(x, level)]
    for step in range(1, steps + 1):
        across = x + wide * step / steps
        points.append((across, level))
        if step < steps:
            level += sign * tall / (steps - 1)
            points.append((across, level))
    return points


# --- pitch curves ---
def top_of(engraver: Engraver, semitones: float) -> float:
    """Where a curve's top lies above the strings, y."""
    return -0.5 * engraver.style.tab - (LOWEST_TOP + SEMITONE * min(abs(semitones), 8.0)) * engraver.style.space


class Curve:
    """A note's pitch on the page: from its figure up to what it is bent to, in its own time.

    start, end: where the note begins and ends across. near: up to where the strings are free, so that what rises
    must have left them; where the strings are free to the end, so may what falls come down to its string again.
    """

    def __init__(self, engraver: Engraver, index: int, start: float, end: float, near: float) -> None:
        self.engraver, self.index = engraver, index
        self.note = engraver.note(index)
        self.start, self.end, self.near = start, end, min(near, end)
        self.free = near >= end - 1e-6
        self.y = engraver.string_y(self.note.string)
        points = self.note.curve.points
        self.down = not any(bend > 0.2 for _, bend in points)
        self.peak = min(bend for _, bend in points) if self.down else max(bend for _, bend in points)
        self.top = top_of(engraver, self.peak)
        self.prebent = not self.down and "prebend" in engraver.names[index]
        self.top_s = next(time_s for time_s, bend in points if bend == self.peak)

    def x(self, time_s: float) -> float:
        """Across at a time after the onset; what rises keeps within the free strings."""
        length = max(self.note.duration_s, 1e-6)
        rise = min(self.top_s / length, 1.0)
        share = min(max(time_s / length, 0.0), 1.0)
        least = min(0.45, 1.1 * self.engraver.style.space / max(self.end - self.start, 1e-6)) if rise > 0 else 0.0
        most = (self.near - self.start) / max(self.end - self.start, 1e-6)
        falls = "release" in self.engraver.names[self.index]
        tip = min(max(rise, least), 0.6 if falls else 1.0, most)
        if share <= rise and rise > 0:
            return self.start + (self.end - self.start) * tip * share / rise
        rest = (share - rise) / max(1 - rise, 1e-6)
        return self.start + (self.end - self.start) * (tip + (1 - tip) * rest)

    def level(self, semitones: float, *, after: bool) -> float:
        """Up or down at a deviation; after: once the top was reached, where the strings may not be free."""
        share = min(max(semitones / self.peak, 0.0), 1.0) if self.peak else 0.0
        foot = self.y if not after or self.free else -0.62 * self.engraver.style.tab
        return foot + (self.top - foot) * share

    def points(self) -> list[Point]:
        """The curve as it is drawn, without what is held level at its end."""
        length = self.note.duration_s
        curve = [(time_s, bend) for time_s, bend in self.note.curve.points if time_s <= length + 1e-6]
        if not curve or curve[0][0] > 0:
            curve.insert(0, (0.0, float(self.note.curve.at(np.zeros(1))[0])))
        result: list[Point] = []
        if self.down:
            return self._downward(curve)
        if self.prebent:  # straight up
            result.append((self.start, self.y))
        for time_s, bend in curve:
            point = (self.x(time_s), self.level(bend, after=time_s > self.top_s))
            if not result or abs(point[0] - result[-1][0]) + abs(point[1] - result[-1][1]) > 0.05:
                result.append(point)
        return result if len(result) > 1 else [*result, (result[0][0], self.top)]

    def _downward(self, curve: Sequence[tuple[float, float]]) -> list[Point]:
        """With the bar: over the strings, down from a level."""
        base, deep = top_of(self.engraver, 2.0), -0.62 * self.engraver.style.tab
        scale = (deep - base) / max(abs(self.peak), 1e-6)
        return [(self.x(time_s), base + scale * min(max(-bend, 0.0), abs(self.peak))) for time_s, bend in curve]

    @property
    def tip(self) -> Point:
        """Where the top is reached; with the bar, the lowest point."""
        points = self.points()
        return (
            max(points, key=lambda point: point[1])
            if self.down
            else min(points, key=lambda point: (point[1], point[0]))
        )


def drawn_curve(curve: Curve, group: str) -> list[Item]:
    """Return a curve with its arrows; the figure of its size is laid where there is room, see `size_words`."""
    engraver, style = curve.engraver, curve.engraver.style
    points, ink = curve.points(), ink_of(curve.note)
    drawn: list[Item] = []
    if curve.prebent:  # a foot says that nothing was heard on the way up
        foot = FOOT * style.space
        drawn.append(stroke("prebend", [(points[0][0] - foot, points[0][1]), (points[0][0] + foot, points[0][1])],
                            style.mark, group=group, ink=ink))  # fmt: skip
    # the way up and the way on, each with a box of its own
    top = next(at for at, point in enumerate(points) if point == curve.tip)
    top = min(max(1, top), len(points) - 1)
    for part in (points[: top + 1], points[top:]):
        if len(part) > 1:
            drawn.append(stroke("curve", part, style.mark, group=group, ink=ink))
    head = HEAD * style.space
    if not curve.down:
        x, y = points[1] if curve.prebent else curve.tip
        drawn.append(fill("arrow", [(x - 0.8 * head, y + head), (x + 0.8 * head, y + head), (x, y - head / 2)],
                          group=group, ink=ink))  # fmt: skip
    if points[-1][1] - points[-2][1] > 0.6 * style.space:  # let down
        x, y = points[-1]
        drawn.append(fill("arrow", [(x - 0.7 * head, y - head), (x + 0.7 * head, y - head), (x, y + head / 2)],
                          group=group, ink=ink))  # fmt: skip
    marks = behind(engraver, curve.index)
    if marks:
        x, y = points[-1]
        for name, _ in marks:
            drawn += mark(name, x + 0.45 * style.space, y, engraver, curve.note, group, up=False)
    return drawn


def size_words(curve: Curve, baseline: float, group: str) -> Words:
    """Return how far a note is bent, its middle over the top of its curve."""
    engraver, style = curve.engraver, curve.engraver.style
    note = curve.note
    text = bend_name(note.reading.bend_semitones or curve.peak, engraver.naming, fret=note.fret)
    x = curve.points()[1][0] if curve.prebent else curve.tip[0]
    return words("size", text, x, baseline, face=Typeface.FIGURE_BOLD, size=style.small, group=group, anchor=0.5,
                 ink=ink_of(note))  # fmt: skip


def hook(engraver: Engraver, index: int, x: float, group: str) -> Item:
    """Return a curl: a small push upward as the note is left."""
    style, note = engraver.style, engraver.note(index)
    y = engraver.string_y(note.string)
    turn = np.linspace(0.0, np.pi / 2, 6)
    wide, high = 0.8 * style.space, 0.4 * style.tab
    points = [(x + wide * float(np.sin(t)), y - high * float(1 - np.cos(t))) for t in turn]
    return stroke("curl", points, 0.8 * style.mark, group=group, ink=ink_of(note))


def wave(engraver: Engraver, note: Note, start: float, end: float, y: float, group: str) -> Item:
    """Return a vibrato: as high as it is wide, as many turns as it has, as far as they can be told apart."""
    style, vibrato = engraver.style, note.vibrato
    if vibrato is None:
        raise ValueError("there is no vibrato on this note")
    low, high, widest = EXTENT
    amplitude = style.space * float(np.interp(vibrato.extent_cents, [0.0, widest], [low, high]))
    turns = max(2.0, vibrato.rate_hz * max(note.duration_s - vibrato.from_s, 0.1))
    turns = max(2, round(min(turns, (end - start) / (WAVE_LENGTH * style.space))))
    across = np.linspace(start, end, 8 * turns + 1)
    down = y - amplitude * np.sin(np.linspace(0, 2 * np.pi * turns, across.size))
    points = list(zip(across.tolist(), down.tolist(), strict=True))
    return stroke("vibrato", points, 0.8 * style.mark, group=group, ink=ink_of(note))


def wave_height(engraver: Engraver, note: Note) -> float:
    """Return how high a vibrato stands on the page, from its lowest to its highest point."""
    low, high, widest = EXTENT
    cents = note.vibrato.extent_cents if note.vibrato is not None else 0.0
    return 2 * engraver.style.space * float(np.interp(cents, [0.0, widest], [low, high])) + engraver.style.mark
