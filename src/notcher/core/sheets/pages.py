"""Whole pages: title, lines, footnotes, legend; where a page ends is weighed over all of them."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from notcher.core.errors import CancelCheck, Cancelled, NotcherError, Progress, never_cancelled, no_progress
from notcher.core.score import Score, Variant
from notcher.core.sheets.breaking import best_breaks, line_breaks
from notcher.core.sheets.choices import SCALES, Easier, Sheet, SheetChoices
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.flow import Column, columns, gaps
from notcher.core.sheets.footnotes import footnotes, letter
from notcher.core.sheets.items import Ink, Item, bounds, moved, stroke, words
from notcher.core.sheets.lead import lead_width
from notcher.core.sheets.legend import legend, used_marks
from notcher.core.sheets.style import SPACE_MM, Style
from notcher.core.sheets.system import System, build_system
from notcher.core.sheets.typeface import Face, extent, fitted, wrapped
from notcher.core.words import USUAL, Naming, figure, many, open_strings

MARGIN_MM = 14.0
LABEL_MM = 0.0
BETWEEN, MOST_BETWEEN = 2.6, 6.0
"""Staff spaces between lines: at least, and drawn apart to fill a page at most."""
MOST_TITLE_LINES = 2


class NothingToPrintError(NotcherError):
    """There is nothing that a sheet could show."""

    def __init__(self, problem: str = "There are no notes to print.", remedy: str = "") -> None:
        super().__init__(problem, remedy or "Hear a recording or write some notes first.")


class TooNarrowError(NotcherError):
    """A page on which not even one column fits."""

    def __init__(self) -> None:
        super().__init__("The page is too small for this print.", "Choose a larger paper or a smaller print.")


@dataclass(frozen=True, slots=True)
class Block:
    """Things that keep together, and where their origin lies on the page, millimetres."""

    x: float
    y: float
    items: tuple[Item, ...]


@dataclass(frozen=True, slots=True)
class Page:
    """One page: its size in millimetres, what stands on it, and the notes on it by their indices."""

    width: float
    height: float
    blocks: tuple[Block, ...]
    indices: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class _Row:
    """What is put on pages in order: its outline, and the footnotes it brings."""

    items: tuple[Item, ...]
    top: float
    bottom: float
    indices: tuple[int, ...] = ()
    kept: bool = False  # it keeps with the row before

    @property
    def height(self) -> float:
        return self.bottom - self.top


class PageMaker:
    """Lays out sheets, and keeps what does not change from one sheet to the next, so that a small edit is quick."""

    def __init__(self) -> None:
        self._systems: dict[object, System] = {}

    def pages(
        self,
        score: Score,
        choices: SheetChoices | None = None,
        naming: Naming = USUAL,
        *,
        student: str = "",
        progress: Progress = no_progress,
        cancelled: CancelCheck = never_cancelled,
    ) -> tuple[Page, ...]:
        """Return the pages of a solo. student: whose sheet it is, "" for nobody's.

        Raises: NothingToPrintError, FontMissingError, Cancelled.
        """
        choices = choices or SheetChoices()
        shown = as_printed(score, choices)
        if not shown.notes:
            raise NothingToPrintError
        if choices.sheet is Sheet.CARDS:
            from notcher.core.sheets.cards import cards

            return cards(self, shown, choices, naming, student=student, progress=progress, cancelled=cancelled)
        if choices.sheet is Sheet.SHAPES:
            from notcher.core.sheets.shapes_page import shapes_page

            return shapes_page(self, shown, choices, naming, student=student, cancelled=cancelled)
        frame = Frame(*choices.page_mm, Style(SPACE_MM * SCALES[choices.size]))
        engraver = self.engraver(shown, choices, naming, frame)
        flow = columns(engraver, engraver.printed)
        progress(0.2)
        rows: list[_Row] = []
        for number, (part, variant) in enumerate(_parts(score, flow, choices)):
            if cancelled():
                raise Cancelled
            rows += self.rows(engraver, part, first=number == 0)
            if variant is not None:
                rows += self._variant_rows(score, variant, choices, naming, frame)
        progress(0.8)
        notes = engraver.told
        tail: list[_Row] = []
        if choices.legend and (names := used_marks(engraver)):
            tail = [_Row(tuple(items), 0.0, height) for items, height in legend(engraver, names, frame.width)]
        head = heading(score, choices, engraver, frame, student=student, left_out=len(score.notes) - len(shown.notes))
        made = filled_pages(frame, head, [*rows, *tail], notes, engraver, title=score.title)
        progress(1.0)
        return made

    def engraver(self, score: Score, choices: SheetChoices, naming: Naming, frame: "Frame") -> Engraver:
        """Return what engraves a solo, its footnotes lettered."""
        engraver = Engraver(score, choices, frame.style, naming, frame.width)
        bars = [time.bar for time in engraver.times]
        engraver.told = footnotes(score, choices, engraver.naming, bars)
        engraver.letters = {index: letter(at) for at, index in enumerate(engraver.told)}
        return engraver

    def rows(self, engraver: Engraver, flow: Sequence[Column], *, first: bool) -> list[_Row]:
        """Break columns into lines and draw them. first: whether the sheet begins with them."""
        if not flow:
            return []
        lead = [lead_width(engraver, column.time_s, first=False) + column.left for column in flow]
        begins_s = flow[0].time_s
        wider = lead_width(engraver, begins_s, first=True) - lead_width(engraver, begins_s, first=False) if first else 0.0
        ends = line_breaks(
            gaps(engraver, flow), [column.penalty for column in flow], first_width=engraver.line_width - wider,
            width=engraver.line_width, lead=lead,
        )  # fmt: skip
        rows = []
        begin = 0
        for end in ends:
            system = build_system(engraver, flow[begin:end], first=first and begin == 0)
            rows.append(_Row(system.items, system.top, system.bottom, system.indices))
            begin = end
        return rows

    def _variant_rows(
        self, score: Score, variant: Variant, choices: SheetChoices, naming: Naming, frame: "Frame"
    ) -> list[_Row]:
        """The lines of a phrase's easier variant, for under it."""
        phrase = score.phrase_of(variant.phrase)
        if phrase is None:
            return []
        played = score.played_as(variant)
        named = replace(phrase, name=f"{phrase.name or 'Phrase'}, {variant.name or 'easier'}")
        others = tuple(named if other.id == phrase.id else other for other in played.phrases)
        easier = as_printed(replace(played, phrases=others, sections=()), replace(choices, easier=Easier.LEFT_OUT))
        engraver = Engraver(easier, choices, frame.style, naming, frame.width)
        flow = columns(engraver, engraver.printed)
        return self.rows(engraver, phrase_columns(engraver, flow, phrase.id), first=False)


@dataclass(frozen=True, slots=True)
class Frame:
    """A page and what is free on it, millimetres; the lengths of its print."""

    page_width: float
    page_height: float
    style: Style
    margin: float = MARGIN_MM

    @property
    def width(self) -> float:
        return self.page_width - 2 * self.margin

    @property
    def height(self) -> float:
        return self.page_height - 2 * self.margin - 2.2 * self.style.text


def as_printed(score: Score, choices: SheetChoices) -> Score:
    """Return the solo as a sheet shows it: with easier variants instead, without garnish, where that was chosen."""
    if choices.easier is Easier.INSTEAD:
        for variant in easier_variants(score).values():
            score = replace(score.played_as(variant), variants=score.variants)
    if not choices.garnish:
        score = score.without(index for index, note in enumerate(score.notes) if note.garnish)
    return score


def easier_variants(score: Score) -> dict[str, Variant]:
    """Return the first variant of each phrase that is for this neck, by the phrase's id."""
    found: dict[str, Variant] = {}
    for variant in score.variants:
        if variant.tuning is None and score.phrase_of(variant.phrase) is not None:
            found.setdefault(variant.phrase, variant)
    return found


def phrase_columns(engraver: Engraver, flow: Sequence[Column], phrase_id: str) -> list[Column]:
    """Return the columns of one phrase, from its first note to its last and the bar line after it."""
    phrase = engraver.score.phrase_of(phrase_id)
    inside = set() if phrase is None else set(engraver.score.notes_of(phrase))
    return note_columns(flow, inside)


def note_columns(flow: Sequence[Column], inside: set[int]) -> list[Column]:
    """Return the columns from the first to the last that hold one of some notes, and what ends there."""
    mine = [at for at, column in enumerate(flow) if inside.intersection((*column.indices, *column.held))]
    if not mine:
        return []
    last = mine[-1] + 1
    if last < len(flow) and flow[last].line:
        last += 1
    return list(flow[mine[0] : last])


def _parts(
    score: Score, flow: Sequence[Column], choices: SheetChoices
) -> list[tuple[list[Column], Variant | None]]:
    """The columns up to each phrase that has something under it, and that."""
    under = easier_variants(score) if choices.easier is Easier.UNDER else {}
    parts: list[tuple[list[Column], Variant | None]] = []
    begin, now = 0, ""
    for at, column in enumerate(flow):
        if column.phrase is not None:
            if now in under:
                parts.append((list(flow[begin:at]), under[now]))
                begin = at
            now = column.phrase.id
    return [*parts, (list(flow[begin:]), under.get(now))]


# --- pages ---
def heading(
    score: Score, choices: SheetChoices, engraver: Engraver, frame: Frame, *, student: str = "", left_out: int = 0,
    title: str = "", subtitle: str = "",
) -> _Row:  # fmt: skip
    """Return a sheet's title and what has to be known before it is played."""
    style, naming = frame.style, engraver.naming
    drawn: list[Item] = []
    y = 0.0
    told = " ".join((title or score.title or "Untitled solo").split())
    lines = wrapped(told[:1000], Face.TEXT_BOLD, style.title, frame.width)
    if len(lines) > MOST_TITLE_LINES:
        lines = [*lines[: MOST_TITLE_LINES - 1], fitted(" ".join(lines[MOST_TITLE_LINES - 1 :]) + "…", Face.TEXT_BOLD,
                                                       style.title, frame.width)]  # fmt: skip
    for number, line in enumerate(lines):
        y += style.title * (1.0 if number == 0 else 1.15)
        drawn.append(words("title", line, 0.0, y, face=Face.TEXT_BOLD, size=style.title, group=f"title {number}"))
    facts = score.facts
    who = [subtitle, facts.player, facts.version, f"for {student}" if student else ""]
    tuning = score.tuning
    neck = [f"Strings from the highest: {open_strings(tuning, naming)}"]
    if tuning.capo:
        neck.append(f"capo at fret {tuning.capo}")
    if round(tuning.offset_cents):
        neck.append(f"{figure(tuning.offset_cents, naming=naming, signed=True)} cents from A = 440 Hz")
    if score.key is not None:
        key = engraver.written_key(0.0) or score.key
        neck.append(f"{key}, {'as it sounds' if choices.names.name == 'SOUNDING' else 'as called on the neck'}"
                    if tuning.shift else str(key))  # fmt: skip
    if not choices.garnish and left_out:
        neck.append(f"{many(left_out, 'note')} of garnish left out")
    for line in (" · ".join(part for part in who if part), " · ".join(neck)):
        for part in wrapped(line, Face.TEXT, style.text, frame.width)[:3]:
            y += 1.45 * style.text
            drawn.append(words("facts", part, 0.0, y, face=Face.TEXT, size=style.text, group=f"facts {y:.1f}"))
    return _Row(tuple(drawn), 0.0, y + 0.8 * style.text)


def filled_pages(
    frame: Frame, head: _Row, rows: Sequence[_Row], notes: dict[int, str], engraver: Engraver, *, title: str
) -> tuple[Page, ...]:
    """Return rows on pages, each with its footnotes."""
    style = frame.style
    gap = BETWEEN * style.space
    feet = [_foot_lines(engraver, row, notes, frame) for row in rows]
    line = 1.3 * 0.92 * style.text
    ends = []
    room = [frame.height - head.height - gap] + [frame.height] * len(rows)

    def taken(first: int, last: int) -> float:
        height = sum(row.height for row in rows[first:last]) + gap * (last - first - 1)
        count = sum(len(foot) for foot in feet[first:last])
        return height + (count * line + 1.5 * style.text if count else 0.0)

    def cost(first: int, last: int) -> float | None:
        free = (room[0] if first == 0 else frame.height) - taken(first, last)
        if free < 0:
            return None if last > first + 1 else 1e9 - free
        return (free / frame.height) ** 2 * (1.0 if last < len(rows) else 0.05) + 1e-3

    ends = best_breaks(len(rows), cost)
    pages = []
    begin = 0
    for number, end in enumerate(ends):
        free = (room[0] if begin == 0 else frame.height) - taken(begin, end)
        count = end - begin
        apart = gap
        if number + 1 < len(ends) and count > 1:
            apart += min(free / (count - 1), (MOST_BETWEEN - BETWEEN) * style.space) if free > 0 else 0.0
        pages.append(_page(frame, head if begin == 0 else None, rows[begin:end], apart,
                           [foot for foot in feet[begin:end]], title, number + 1, len(ends)))  # fmt: skip
        begin = end
    return tuple(pages)


def _foot_lines(engraver: Engraver, row: _Row, notes: dict[int, str], frame: Frame) -> list[tuple[str, str]]:
    """The footnotes of a row in lines: the letter, which only the first line of each has, and the words."""
    size = 0.92 * frame.style.text
    lines: list[tuple[str, str]] = []
    for index in row.indices:
        if index in notes:
            parts = wrapped(notes[index], Face.TEXT, size, frame.width - 3.5 * size)
            lines += [(engraver.letters[index] if at == 0 else "", part) for at, part in enumerate(parts)]
    return lines


def _page(
    frame: Frame, head: _Row | None, rows: Sequence[_Row], apart: float, feet: Sequence[Sequence[tuple[str, str]]],
    title: str, number: int, count: int,
) -> Page:  # fmt: skip
    style, blocks = frame.style, []
    y = frame.margin
    if head is not None:
        blocks.append(Block(frame.margin, y, head.items))
        y += head.height + BETWEEN * style.space
    for row in rows:
        blocks.append(Block(frame.margin, y - row.top, row.items))
        y += row.height + apart
    blocks.append(_footer(frame, title, number, count))
    lines = [line for foot in feet for line in foot]
    if lines:
        blocks.append(_footnotes(frame, lines))
    return Page(frame.page_width, frame.page_height, tuple(blocks), tuple(i for row in rows for i in row.indices))


def _footer(frame: Frame, title: str, number: int, count: int) -> Block:
    style = frame.style
    size = 0.85 * style.text
    pages = f"page {number} of {count}"
    wide = extent(pages, Face.FIGURE, size).advance
    name = fitted(" ".join((title or "Untitled solo")[:300].split()), Face.TEXT, size, frame.width - wide - 4 * size)
    y = frame.page_height - frame.margin
    return Block(
        frame.margin, y,
        (
            words("footer", name, 0.0, 0.0, face=Face.TEXT, size=size, group="footer", ink=Ink.SOFT),
            words("footer", pages, frame.width, 0.0, face=Face.FIGURE, size=size, group="pages", anchor=1.0,
                  ink=Ink.SOFT),
        ),
    )  # fmt: skip


def _footnotes(frame: Frame, lines: Sequence[tuple[str, str]]) -> Block:
    """The footnotes of a page over its foot, under a short line."""
    style = frame.style
    size = 0.92 * style.text
    step = 1.3 * size
    height = len(lines) * step + 0.6 * style.text
    top = frame.page_height - frame.margin - 2.0 * style.text - height
    drawn: list[Item] = [stroke("rule", [(0.0, 0.0), (0.25 * frame.width, 0.0)], style.line, group="rule")]
    for at, (sign, text) in enumerate(lines):
        y = 0.6 * style.text + (at + 0.75) * step
        if sign:
            drawn.append(words("note letter", sign, 0.0, y, face=Face.TEXT_BOLD, size=size, group=f"foot {at}"))
        drawn.append(words("note", text, 2.6 * size, y, face=Face.TEXT, size=size, group=f"foot {at} text"))
    return Block(frame.margin, top, tuple(drawn))


def page_items(page: Page) -> list[Item]:
    """Return everything on a page where it lies there."""
    return [moved(item, block.y, block.x) for block in page.blocks for item in block.items]


def page_box(page: Page) -> tuple[float, float, float, float]:
    """Return the edges of all ink on a page: left, top, right, bottom."""
    box = bounds(page_items(page))
    return box.left, box.top, box.right, box.bottom
