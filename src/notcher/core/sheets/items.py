"""What lies on a page: words, signs, lines and shapes, each with the box its ink fills. Millimetres, y down."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise

from notcher.core.sheets.smufl import CODE_POINTS
from notcher.core.sheets.typeface import SPACES_PER_EM, Typeface, extent

Point = tuple[float, float]
SLICES = 8
"""Into how many boxes something slanted is cut."""


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle; empty where it has no ink."""

    left: float
    top: float
    right: float
    bottom: float

    def overlaps(self, other: "Box", slack: float = 0.0) -> bool:
        """Whether two boxes share more than their edges; slack: by how much they may."""
        across = min(self.right, other.right) - max(self.left, other.left)
        return across > slack and min(self.bottom, other.bottom) - max(self.top, other.top) > slack

    def moved(self, x: float, y: float) -> "Box":
        return Box(self.left + x, self.top + y, self.right + x, self.bottom + y)

    def grown(self, by: float) -> "Box":
        return Box(self.left - by, self.top - by, self.right + by, self.bottom + by)


class Ink(StrEnum):
    """How heavy something is printed."""

    FULL = "full"
    SOFT = "soft"  # garnish, reminders, what only helps
    HAIR = "hair"  # the lines of the staff


@dataclass(frozen=True, slots=True)
class Item:
    """Anything on a page. kind: what it is. group: what belongs together and may touch; "" for the ground, the lines
    that everything lies on."""

    kind: str
    group: str
    ink: Ink
    box: Box

    @property
    def parts(self) -> tuple[Box, ...]:
        """Boxes that together hold its ink more closely than `box`, where it is slanted or bowed."""
        return (self.box,)


@dataclass(frozen=True, slots=True)
class Words(Item):
    """A text or a sign of the music font. x, y: its origin on the baseline. size: of an em. advance: its width. plate:
    a lighter ground under it, so that lines do not cross it."""

    text: str
    face: Typeface
    size: float
    x: float
    y: float
    advance: float
    plate: bool = False


@dataclass(frozen=True, slots=True)
class PathItem(Item):
    """A line through points. dash: drawn and left out, in widths; () for an unbroken one."""

    points: tuple[Point, ...]
    width: float
    dash: tuple[float, float] | tuple[()] = ()

    @property
    def parts(self) -> tuple[Box, ...]:
        boxes: list[Box] = []
        for a, b in pairwise(self.points):
            level = min(abs(a[0] - b[0]), abs(a[1] - b[1])) < SHORT_MM
            boxes += [_around(part, self.width / 2) for part in ([(a, b)] if level else _cut(a, b))]
        return tuple(boxes)


@dataclass(frozen=True, slots=True)
class Fill(Item):
    """A filled polygon."""

    points: tuple[Point, ...]

    @property
    def parts(self) -> tuple[Box, ...]:
        """Of a slanted beam, whose corners run along one edge and back along the other, its slices."""
        if len(self.points) != 4 or self.points[0][1] == self.points[1][1]:
            return (self.box,)
        a, b, c, d = self.points
        there, back = _cut(a, b), _cut(d, c)
        return tuple(_around((*begin, *other), 0.0) for begin, other in zip(there, back, strict=True))


@dataclass(frozen=True, slots=True)
class Arc(Item):
    """A tie: two cubic curves from end to end, thick in the middle. bulge: how far it bows, down where positive."""

    start: Point
    end: Point
    bulge: float
    thickness: float

    @property
    def parts(self) -> tuple[Box, ...]:
        """Slices: at a share t of its length a bow with handles at a height h stands 3 t (1 - t) h away."""
        (x, y), (end, _) = self.start, self.end
        half = self.thickness / 2
        boxes = []
        for t, later in pairwise(at / SLICES for at in range(SLICES + 1)):
            highs = [3 * s * (1 - s) for s in (t, later, *([0.5] if t < 0.5 < later else []))]
            ys = [y + high * (self.bulge + side) for high in highs for side in (-half, half)]
            boxes.append(Box(x + (end - x) * t, min(ys), x + (end - x) * later, max(ys)))
        return tuple(boxes)


def words(
    kind: str,
    text: str,
    x: float,
    y: float,
    *,
    face: Typeface,
    size: float,
    group: str,
    anchor: float = 0.0,
    ink: Ink = Ink.FULL,
    plate: bool = False,
) -> Words:
    """Return a text with its baseline at y. anchor: which part of its ink lies at x: 0 left, 0.5 middle, 1 right."""
    room = extent(text, face, size)
    origin = x - room.left - anchor * (room.right - room.left)
    box = Box(origin + room.left, y + room.top, origin + room.right, y + room.bottom)
    return Words(kind, group, ink, box, text, face, size, origin, y, room.advance, plate)


def sign(
    kind: str, name: str, x: float, y: float, *, space: float, group: str, anchor: float | None = None,
    ink: Ink = Ink.FULL,
) -> Words:  # fmt: skip
    """Return a sign of the music font with its origin at (x, y). anchor: as for words; None lays the origin itself."""
    text, size = chr(CODE_POINTS[name]), SPACES_PER_EM * space
    room = extent(text, Typeface.MUSIC, size)
    origin = x if anchor is None else x - room.left - anchor * (room.right - room.left)
    box = Box(origin + room.left, y + room.top, origin + room.right, y + room.bottom)
    return Words(kind, group, ink, box, text, Typeface.MUSIC, size, origin, y, room.advance)


def stroke(
    kind: str,
    points: Sequence[Point],
    width: float,
    *,
    group: str,
    ink: Ink = Ink.FULL,
    dash: tuple[float, float] | tuple[()] = (),
) -> PathItem:
    """Return a line; its ends and corners are cut flat, so that its ink keeps within half a width of the points."""
    return PathItem(kind, group, ink, _around(points, width / 2), tuple(points), width, dash)


def fill(kind: str, points: Sequence[Point], *, group: str, ink: Ink = Ink.FULL) -> Fill:
    return Fill(kind, group, ink, _around(points, 0.0), tuple(points))


def bar_fill(kind: str, box: Box, *, group: str, ink: Ink = Ink.FULL) -> Fill:
    """Return a filled rectangle."""
    corners = ((box.left, box.top), (box.right, box.top), (box.right, box.bottom), (box.left, box.bottom))
    return Fill(kind, group, ink, box, corners)


def arc(kind: str, start: Point, end: Point, *, bulge: float, thickness: float, group: str, ink: Ink = Ink.FULL) -> Arc:
    """Return a tie between two points of one height. A cubic curve with both handles at a height comes to three
    quarters of it."""
    far = 0.75 * (bulge + (thickness / 2 if bulge > 0 else -thickness / 2))
    y = start[1]
    box = Box(start[0], min(y, y + far), end[0], max(y, y + far))
    return Arc(kind, group, ink, box, start, end, bulge, thickness)


SHORT_MM = 0.4
"""What rises or runs by less is one box: it holds little else than ink."""


def _cut(a: Point, b: Point) -> list[tuple[Point, Point]]:
    """A slanted line in pieces."""
    spots = [(a[0] + (b[0] - a[0]) * at / SLICES, a[1] + (b[1] - a[1]) * at / SLICES) for at in range(SLICES + 1)]
    return list(pairwise(spots))


def _around(points: Sequence[Point], by: float) -> Box:
    xs, ys = [x for x, _ in points], [y for _, y in points]
    # a level or upright line has ink to its sides only
    flat_x = by if max(xs) - min(xs) < 1e-9 or max(ys) - min(ys) > 1e-9 else 0.0
    flat_y = by if max(ys) - min(ys) < 1e-9 or max(xs) - min(xs) > 1e-9 else 0.0
    return Box(min(xs) - flat_x, min(ys) - flat_y, max(xs) + flat_x, max(ys) + flat_y)


def bounds(items: Iterable[Item]) -> Box:
    """Return the box around all items; an empty one at 0 for none."""
    boxes = [item.box for item in items]
    if not boxes:
        return Box(0.0, 0.0, 0.0, 0.0)
    return Box(
        min(box.left for box in boxes), min(box.top for box in boxes),
        max(box.right for box in boxes), max(box.bottom for box in boxes),
    )  # fmt: skip


def moved(item: Item, y: float, x: float = 0.0) -> Item:
    """Return an item further down, and further to the right."""
    box = item.box.moved(x, y)
    if isinstance(item, Words):
        return replace(item, box=box, x=item.x + x, y=item.y + y)
    if isinstance(item, PathItem | Fill):
        return replace(item, box=box, points=tuple((a + x, b + y) for a, b in item.points))
    if isinstance(item, Arc):
        (a, b), (c, d) = item.start, item.end
        return replace(item, box=box, start=(a + x, b + y), end=(c + x, d + y))
    raise TypeError(f"nothing is known of {item!r}")
