"""The legend: each mark of a sheet as it is drawn there, and what it says; only those that were used."""

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

from notcher.core.score import Note, PitchCurve, Score, Tone, Vibrato
from notcher.core.sheets.choices import SheetChoices
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.items import Box, Ink, Item, fill, moved, stroke, words
from notcher.core.sheets.marks import Curve, before, behind, drawn_curve, figure, hook, mark, wave
from notcher.core.sheets.style import Style
from notcher.core.sheets.typeface import Typeface, wrapped
from notcher.core.words import USUAL, BendNames

TELLS = {
    "hammer": "hammered: fretted without picking",
    "pull": "pulled off to this fret",
    "tap": "tapped: the picking hand frets it",
    "repick": "struck again while it is bent",
    "swell": "struck silently and faded in",
    "slide": "slid into along the string",
    "slide_in": "slid into from no fret",
    "slide_out": "slides away at the end",
    "rake": "the pick is dragged over muted strings into it",
    "choked": "choked: stopped at once with the picking hand",
    "rings": "rings on",
    "bend": "bent, in its own time; the figure says how far, {unit}",
    "prebend": "bent before it is struck",
    "release": "let down, where the line falls",
    "curl": "curl: pushed up a little as it is left",
    "dip": "with the bar, down and back",
    "dive": "with the bar, down and away",
    "vibrato": "vibrato: begins where the wave begins, and is as wide as the wave is high",
    "palm_mute": "muted with the heel of the hand",
    "trill": "trill",
    "staccato": "cut short",
    "natural_harmonic": "natural harmonic",
    "tapped_harmonic": "tapped harmonic",
    "squeal_harmonic": "squeal harmonic",
    "dead": "dead: a click without pitch",
    "slip": "the player's slip, as played",
    "garnish": "optional: may be left out",
    "held": "goes on from the line before",
    "pick": "pick goes down, pick goes up",
}
UNITS = {
    BendNames.STEPS: "in steps of two frets",
    BendNames.TONES: "in tones of two frets",
    BendNames.FRETS: "in frets",
    BendNames.SOUNDS: "the fret that it sounds like",
}


def used_marks(engraver: Engraver) -> list[str]:
    """Return the names of the marks that a solo's sheet shows, in the legend's order."""
    used: set[str] = set()
    for index, note in enumerate(engraver.score.notes):
        names = engraver.names[index]
        used |= {name for name, _ in (*before(engraver, index), *behind(engraver, index))}
        used |= set(names) & {"bend", "prebend", "release", "curl", "dip", "dive", "vibrato", "palm_mute", "trill"}
        used |= {"staccato"} & set(names)
        used |= {note.tone.value} & set(TELLS)
        used |= {name for name, is_so in (("slip", note.slip), ("garnish", note.garnish)) if is_so}
        if note.stroke is not None and engraver.choices.strokes:
            used.add("pick")
    return [name for name in TELLS if name in used]


def legend(
    engraver: Engraver, names: Sequence[str], width: float, *, titled: bool = True
) -> list[tuple[list[Item], float]]:
    """Return the legend row by row, each with its height; y = 0 is a row's top."""
    style = engraver.style
    count = max(1, int(width // (40 * style.space)))
    title = words(
        "legend title", "Marks", 0.0, 0.9 * style.text, face=Typeface.TEXT_BOLD, size=style.text, group="legend"
    )
    rows: list[tuple[list[Item], float]] = []
    for first in range(0, len(names), count):
        entries = [_entry(style, engraver.naming.bends, name, width / count) for name in names[first : first + count]]
        high = max(height for _, height in entries)
        top = 1.3 * style.text if titled and not rows else 0.0
        drawn: list[Item] = [title] if titled and not rows else []
        for at, (items, height) in enumerate(entries):
            drawn += [_put(item, at * width / count, top + (high - height) / 2) for item in items]
        rows.append((drawn, top + high))
    return rows


@lru_cache(maxsize=512)  # the same few stand under every sheet
def _entry(style: Style, bends: BendNames, name: str, width: float) -> tuple[tuple[Item, ...], float]:
    """A mark and what it says, its top at 0."""
    text = TELLS[name].format(unit=UNITS[bends])
    lines = wrapped(text, Typeface.TEXT, style.text, width - 8.2 * style.space)
    items, high = _sample(style, bends, name)
    height = max(high, len(lines) * 1.3 * style.text) + 0.8 * style.space
    middle = height / 2
    drawn = [_put(item, 0.0, middle) for item in items]
    first = middle - (len(lines) - 1) * 0.65 * style.text + 0.33 * style.text
    for number, line in enumerate(lines):
        drawn.append(words("legend", line, 6.8 * style.space, first + 1.3 * number * style.text, face=Typeface.TEXT,
                           size=style.text, group=f"legend {name} text"))  # fmt: skip
    return tuple(drawn), height


SHAPES: dict[str, dict[str, object]] = {
    "bend": {"curve": PitchCurve(((0.0, 0.0), (0.4, 2.0)))},
    "prebend": {"curve": PitchCurve(((0.0, 2.0),))},
    "release": {"curve": PitchCurve(((0.0, 0.0), (0.3, 2.0), (0.6, 2.0), (0.9, 0.0)))},
    "dip": {"curve": PitchCurve(((0.0, 0.0), (0.4, -2.0), (0.9, 0.0)))},
    "dive": {"curve": PitchCurve(((0.0, 0.0), (0.9, -2.0)))},
    "curl": {"curve": PitchCurve(((0.0, 0.0), (0.7, 0.0), (1.0, 0.4)))},
    "natural_harmonic": {"tone": Tone.NATURAL_HARMONIC},
    "tapped_harmonic": {"tone": Tone.TAPPED_HARMONIC},
    "squeal_harmonic": {"tone": Tone.SQUEAL_HARMONIC},
    "dead": {"tone": Tone.DEAD},
    "slip": {"slip": True},
    "garnish": {"garnish": True},
}


def _sample(style: Style, bends: BendNames, name: str) -> tuple[list[Item], float]:
    """One mark as it is drawn on the page, its middle at height 0, and how high it stands."""
    space, group = style.space, f"legend {name}"
    note = Note(0.0, 1.0, 1, 12, vibrato=Vibrato(0.2, 5.5, 40.0) if name == "vibrato" else None,
                **SHAPES.get(name, {}))  # type: ignore[arg-type]  # fmt: skip
    small = Engraver(Score((note,)), replace(SheetChoices(), bends=bends), style, USUAL, 100.0)
    if name in ("bend", "prebend", "release", "dip", "dive"):
        curve = Curve(small, 0, 2.3 * space, 6.0 * space, 6.0 * space)
        items = [*figure(small, 0, 1.3 * space, group), *drawn_curve(curve, group)]
    elif name == "curl":
        items = [*figure(small, 0, 1.3 * space, group), hook(small, 0, 2.5 * space, group)]
    elif name == "vibrato":
        items = [wave(small, note, 0.6 * space, 5.6 * space, 0.0, group)]
    elif name in SHAPES:
        items = figure(small, 0, 2.0 * space, group)
    elif name == "held":
        items = [words(name, "(12)", 0.6 * space, 0.0, face=Typeface.FIGURE, size=0.85 * style.figure, group=group,
                       ink=Ink.SOFT)]  # fmt: skip
    elif name == "palm_mute":
        step = 0.55 * space
        items = [stroke(name, [(at * step, step), ((at + 1) * step, 0.0)], 0.6 * style.mark, group=group)
                 for at in range(1, 8)]  # fmt: skip
    elif name == "trill":
        points = [(0.6 * space + at * 0.45 * space, 0.5 * space * (at % 2)) for at in range(10)]
        items = [stroke(name, points, 0.7 * style.mark, group=group)]
    elif name == "staccato":
        items = [*figure(small, 0, 1.6 * space, group)]
        box = items[0].box
        dot = Box(1.4 * space, box.top - 0.8 * space, 1.8 * space, box.top - 0.4 * space)
        items.append(fill(name, [(dot.left, dot.top), (dot.right, dot.top), (dot.right, dot.bottom),
                                 (dot.left, dot.bottom)], group=group))  # fmt: skip
    elif name == "pick":
        half = 0.32 * space
        items = [
            fill(name, [(x - half, base), (x + half, base), (x, tip)], group=group)
            for x, base, tip in ((1.2 * space, 0.0, 1.3 * space), (3.0 * space, 1.3 * space, 0.0))
        ]
    else:
        items = mark(name, 1.2 * space, 0.0, small, note, group, up=name != "slide_out")
    top, bottom = min(item.box.top for item in items), max(item.box.bottom for item in items)
    return [_put(item, 0.0, -(top + bottom) / 2) for item in items], bottom - top


def _put(item: Item, x: float, y: float) -> Item:
    return moved(item, y, x)
