"""What somebody wants their sheets to be like: one table, from which the bench, the commands and the keeping read."""

import contextlib
import json
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from enum import StrEnum

from notcher.core.errors import NotcherError
from notcher.core.words import BendNames, Naming, StringNames


class Sheet(StrEnum):
    """What is printed."""

    PAGES = "pages"  # the solo, line by line
    CARDS = "cards"  # each phrase alone, large
    SHAPES = "shapes"  # one page: what comes again


class Paper(StrEnum):
    """Formats of paper (ISO 216:2007 for A4, ANSI/ASME Y14.1 for Letter)."""

    A4 = "A4"
    LETTER = "Letter"


PAPER_MM = {Paper.A4: (210.0, 297.0), Paper.LETTER: (215.9, 279.4)}


class Size(StrEnum):
    """How large it is printed."""

    SMALL = "small"
    NORMAL = "normal"
    LARGE = "large"  # for the stand


SCALES = {Size.SMALL: 0.82, Size.NORMAL: 1.0, Size.LARGE: 1.45}


class Lines(StrEnum):
    """Where a line may end."""

    PHRASES = "by phrase"  # a phrase is not torn where that can be avoided
    BARS = "by bar"


class Easier(StrEnum):
    """What is done with an easier variant of a phrase."""

    LEFT_OUT = "left out"
    UNDER = "under it"
    INSTEAD = "instead"


class Repeats(StrEnum):
    """What is done with bars that come again."""

    WRITTEN = "written out"
    NAMED = "named"  # written out, with "as bar 5, two frets up" over them
    FOLDED = "folded"  # printed once


class Names(StrEnum):
    """How chords and pitches are called on a retuned neck."""

    SHAPES = "as on the neck"
    SOUNDING = "as they sound"


@dataclass(frozen=True, slots=True)
class SheetChoices:
    """One student's sheets; see `CHOICES` for what each choice means."""

    sheet: Sheet = Sheet.PAGES
    paper: Paper = Paper.A4
    landscape: bool = False
    size: Size = Size.NORMAL
    rhythm: bool = True
    staff: bool = False
    strings: StringNames = StringNames.NUMBERS
    bends: BendNames = BendNames.STEPS
    names: Names = Names.SHAPES
    lines: Lines = Lines.PHRASES
    repeats: Repeats = Repeats.NAMED
    easier: Easier = Easier.LEFT_OUT
    chords: bool = True
    counts: bool = True
    fingers: bool = True
    strokes: bool = True
    remarks: bool = True
    garnish: bool = True
    footnotes: bool = True
    legend: bool = True

    @property
    def page_mm(self) -> tuple[float, float]:
        """Width and height of a page."""
        width, height = PAPER_MM[self.paper]
        return (height, width) if self.landscape else (width, height)

    def named(self, naming: Naming) -> Naming:
        """Return an instructor's naming with this student's strings and bends."""
        return replace(naming, strings=self.strings, bends=self.bends)


@dataclass(frozen=True, slots=True)
class Choice:
    """One choice: its name in `SheetChoices`, what it is called, and what it does."""

    name: str
    words: str
    tells: str


CHOICES = (
    Choice("sheet", "Sheet", "The solo page by page, a card for each phrase, or one page of the shapes in it."),
    Choice("paper", "Paper", "What the printer holds."),
    Choice("landscape", "Landscape", "The page lies on its long side."),
    Choice("size", "Print size", "Large is for a stand two metres away."),
    Choice("rhythm", "Rhythm", "Stems and beams under the strings; without them the sheet is bare."),
    Choice("staff", "Notes above the tab", "A staff of notes over the strings, an octave above what sounds."),
    Choice("strings", "Strings by", "Number 1 is the highest string; letters are the open notes."),
    Choice("bends", "Bends in", "What the figure over a bend counts, or the fret that its top sounds like."),
    Choice("names", "Names", "On a retuned neck: as the shapes are called, or as they sound."),
    Choice("lines", "Lines end", "By phrase: no phrase is torn where that can be avoided."),
    Choice("repeats", "Bars that come again", "Written out, named over the bar, or printed once."),
    Choice("easier", "Easier variant", "Where a phrase has one: left out, under the phrase, or instead of it."),
    Choice("chords", "Chords", "Chord symbols above."),
    Choice("counts", "Counts", "How each note is counted."),
    Choice("fingers", "Fingers", "Which finger, where it was said."),
    Choice("strokes", "Pick strokes", "Which way the pick goes."),
    Choice("remarks", "Remarks", "What you remarked on a note, under it."),
    Choice("garnish", "Garnish", "In a lighter print; without it only the line itself is left."),
    Choice("footnotes", "Footnotes", "Slips and doubts, at the foot of the page."),
    Choice("legend", "Legend", "What each mark on the sheet means, at its end."),
)


class ChoiceError(NotcherError):
    """A choice that there is not."""


def choices_from(values: Mapping[str, object], base: SheetChoices | None = None) -> SheetChoices:
    """Return choices as they were kept or typed: names and values, yes and no for what is on or off.

    Raises: ChoiceError that names what there is.
    """
    usual = base or SheetChoices()
    names = {field.name for field in fields(SheetChoices)}
    changed: dict[str, object] = {}
    for name, value in values.items():
        if name not in names:
            raise ChoiceError(f"Sheets have no choice {name!r}.", f"There are {', '.join(sorted(names))}.")
        changed[name] = _read(name, value, getattr(usual, name))
    return replace(usual, **changed)  # type: ignore[arg-type]


def _read(name: str, value: object, now: object) -> object:
    if isinstance(now, bool):
        words = {"yes": True, "no": False, "true": True, "false": False, "on": True, "off": False}
        if str(value).lower() in words:
            return words[str(value).lower()]
        raise ChoiceError(f"{value!r} is no choice for {name}.", "Say yes or no.")
    values = list(type(now))  # type: ignore[call-overload]
    for allowed in values:
        if str(value).lower() in (str(allowed).lower(), allowed.name.lower()):
            return allowed
    raise ChoiceError(
        f"{value!r} is no choice for {name}.", f"There are {', '.join(str(allowed) for allowed in values)}."
    )


def kept_choices(text: str) -> SheetChoices:
    """Return choices as they were kept, JSON; the usual ones for what nobody can read any more."""
    with contextlib.suppress(ValueError, TypeError, ChoiceError):
        stored = json.loads(text or "{}")
        if not isinstance(stored, dict):
            return SheetChoices()
        names = {field.name for field in fields(SheetChoices)}
        return choices_from({name: value for name, value in stored.items() if name in names})
    return SheetChoices()


def told_choices(choices: SheetChoices) -> dict[str, str | bool]:
    """Return choices as they are kept; `choices_from` reads them."""
    values = {field.name: getattr(choices, field.name) for field in fields(SheetChoices)}
    return {name: value if isinstance(value, bool) else str(value) for name, value in values.items()}
