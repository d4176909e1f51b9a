"""Shapes of common method-book practice (no source): what a hand is taught, place by place.

Each shape is (string, fret) in order; string 1 is the highest. Attacks say what is slurred.
"""

from __future__ import annotations

from dataclasses import dataclass

from notcher.core.score import Attack

Line = tuple[tuple[int, int], ...]
STANDARD_OPEN = (64, 59, 55, 50, 45, 40)
MINOR_PENTATONIC = {
    1: ((0, 3), (0, 2), (0, 2), (0, 2), (0, 3), (0, 3)),
    2: ((3, 5), (2, 5), (2, 5), (2, 4), (3, 5), (3, 5)),
    3: ((5, 7), (5, 7), (5, 7), (4, 7), (5, 8), (5, 7)),
    4: ((7, 10), (7, 10), (7, 9), (7, 9), (8, 10), (7, 10)),
    5: ((10, 12), (10, 12), (9, 12), (9, 12), (10, 12), (10, 12)),
}
"""The five positions of the minor pentatonic, frets above the root's on string 6; string 6 first."""
MAJOR_THREE = ((0, 2, 4), (0, 2, 4), (1, 2, 4), (1, 2, 4), (2, 4, 5), (2, 4, 5))
DORIAN_THREE = ((0, 2, 3), (0, 2, 4), (0, 2, 4), (1, 2, 4), (2, 3, 5), (2, 3, 5))
MAJOR_POSITION = ((1, 3), (0, 1, 3), (0, 2, 3), (0, 2), (0, 1, 3), (0, 1, 3))
MINOR_POSITION = ((0, 2, 3), (0, 2, 3), (0, 2), (-1, 0, 2), (0, 1, 3), (0, 2, 3))
BLUES = ((0, 3), (0, 1, 2), (0, 2), (0, 2, 3), (0, 3), (0, 3))


@dataclass(frozen=True)
class Shape:
    """A shape to be found again: its name, its places, its attacks and the seconds from note to note.

    together: places struck at once come in groups of so many. bends: semitones by index.
    """

    name: str
    line: Line
    attacks: tuple[Attack, ...] = ()
    step_s: float = 0.2
    together: int = 1
    bends: tuple[tuple[int, float], ...] = ()


def _up(frets: tuple[tuple[int, ...], ...], root: int) -> Line:
    return tuple((6 - row, root + fret) for row, on_string in enumerate(frets) for fret in on_string)


def _legato(groups: Line, per_string: int) -> tuple[Attack, ...]:
    return tuple(Attack.PICK if i % per_string == 0 else Attack.HAMMER for i in range(len(groups)))


def _sequence(line: Line, size: int) -> Line:
    """One, two, three, four; two, three, four, five; and so on."""
    return tuple(place for first in range(0, len(line) - size + 1) for place in line[first : first + size])


def _pairs(*pairs: tuple[tuple[int, int], tuple[int, int]]) -> Line:
    return tuple(place for pair in pairs for place in pair)


def shapes() -> list[Shape]:
    found: list[Shape] = []
    for number, frets in MINOR_PENTATONIC.items():
        for root in (3, 5, 8):
            up = _up(frets, root)
            found += [Shape(f"pentatonic {number} up", up), Shape(f"pentatonic {number} down", up[::-1])]
    for root in (2, 5, 9):
        found += [
            Shape("blues scale up", _up(BLUES, root)),
            Shape("blues scale down", _up(BLUES, root)[::-1]),
            Shape("major, one position, up", _up(MAJOR_POSITION, root)),
            Shape("major, one position, down", _up(MAJOR_POSITION, root)[::-1]),
            Shape("minor, one position, up", _up(MINOR_POSITION, root)),
            Shape("minor, one position, down", _up(MINOR_POSITION, root)[::-1]),
        ]
        for name, three in (("major", MAJOR_THREE), ("dorian", DORIAN_THREE)):
            line = _up(three, root)
            found.append(Shape(f"{name}, three to a string, slurred", line, _legato(line, 3), 0.12))
            down = tuple(place for row in range(6) for place in line[::-1][3 * row : 3 * row + 3])
            pulled = tuple(Attack.PICK if i % 3 == 0 else Attack.PULL for i in range(len(down)))
            found.append(Shape(f"{name}, three to a string, pulled", down, pulled, 0.12))
        box = _up(MINOR_PENTATONIC[1], root)
        found += [
            Shape("pentatonic in fours", _sequence(box, 4), (), 0.13),
            Shape("pentatonic in threes, down", _sequence(box[::-1], 3), (), 0.13),
        ]
        found += _arpeggios(root) + _double_stops(root) + _licks(root)
    found.append(
        Shape(
            "open pentatonic",
            ((6, 0), (6, 3), (5, 0), (5, 2), (4, 0), (4, 2), (3, 0), (3, 2), (2, 0), (2, 3), (1, 0), (1, 3)),
        )
    )
    return found


def _arpeggios(root: int) -> list[Shape]:
    """Swept triads and sevenths; frets above the root's on the string they start from."""
    minor = ((5, root), (5, root + 3), (4, root + 2), (3, root + 2), (2, root + 1), (1, root), (1, root + 3))
    major = ((5, root), (5, root + 4), (4, root + 2), (3, root + 2), (2, root + 2), (1, root), (1, root + 5))
    small = ((3, root + 2), (2, root + 1), (1, root), (1, root + 3), (1, root), (2, root + 1), (3, root + 2))
    symmetric = tuple(
        place
        for step in range(3)
        for place in (
            (3, root + 2 + 3 * step),
            (2, root + 1 + 3 * step),
            (1, root + 3 * step),
            (2, root + 1 + 3 * step),
        )
    )
    return [
        Shape("minor sweep", minor[:-1] + minor[-1:], (*[Attack.PICK] * 6, Attack.HAMMER), 0.09),
        Shape("major sweep", major[:6], (Attack.PICK, Attack.HAMMER, *[Attack.PICK] * 4), 0.09),
        Shape("small minor sweep", small, (*[Attack.PICK] * 3, Attack.HAMMER, Attack.PULL, *[Attack.PICK] * 2), 0.09),
        Shape("diminished, every three frets", symmetric, (), 0.11),
    ]


def _double_stops(root: int) -> list[Shape]:
    steps = (0, 2, 4, 5, 7)
    sixths = _pairs(*(((1, root + s), (3, root + s + (1 if s in (0, 5, 7) else 0))) for s in steps))
    thirds = _pairs(*(((2, root + s), (3, root + s + (1 if s in (2, 4) else 0))) for s in steps))
    fourths = _pairs(*(((1, root + s), (2, root + s)) for s in (0, 3, 5, 3, 0)))
    octaves = _pairs(*(((3, root + 2 + s), (5, root + s)) for s in (0, 2, 3, 5)))
    unison = _pairs(*(((1, root + s), (2, root + 3 + s)) for s in (0, 3, 5)))
    return [
        Shape("sixths", sixths, (), 0.4, 2),
        Shape("thirds", thirds, (), 0.4, 2),
        Shape("fourths", fourths, (), 0.4, 2),
        Shape("octaves", octaves, (), 0.4, 2),
        Shape("unison bends", unison, (), 0.8, 2, tuple((i, 2.0) for i in (1, 3, 5))),
    ]


def _licks(root: int) -> list[Shape]:
    pick, hammer, pull, tap = Attack.PICK, Attack.HAMMER, Attack.PULL, Attack.TAP
    bend = ((3, root + 2), (2, root), (1, root), (1, root + 3), (1, root), (2, root + 3), (2, root), (3, root + 2))
    turn = ((2, root + 3), (2, root), (3, root + 2), (3, root), (3, root + 2), (4, root + 2), (4, root), (4, root + 2))
    tapped = ((1, root + 7), (1, root), (1, root + 3)) * 4
    pedal = ((1, root), (2, root + 3), (1, root), (2, root + 2), (1, root), (2, root), (1, root), (3, root + 2))
    skipped = (
        (4, root + 2),
        (4, root + 4),
        (2, root),
        (2, root + 3),
        (1, root),
        (1, root + 3),
        (2, root + 3),
        (2, root),
    )
    return [
        Shape("bend and answer", bend, (), 0.25, 1, ((0, 2.0),)),
        Shape("turn with pulls", turn, (pick, pull, pick, pull, hammer, pick, pull, hammer), 0.16),
        Shape("tapped triad", tapped, (tap, pull, hammer) * 4, 0.11),
        Shape("pedal note", pedal, (), 0.16),
        Shape("string skipping", skipped, (), 0.2),
    ]
