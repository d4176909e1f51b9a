"""A page: title, rows one under the other, footnotes, foot; where pages end is weighed over all of them."""

from collections.abc import Sequence
from dataclasses import dataclass

from notcher.core.score import Score
from notcher.core.sheets.breaking import best_breaks
from notcher.core.sheets.choices import Names
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.items import Ink, Item, moved, stroke, words
from notcher.core.sheets.style import Style
from notcher.core.sheets.typeface import Typeface, extent, fitted, wrapped
from notcher.core.words import many, tuning_words

MARGIN_MM = 14.0  # printers reach within 6 mm of the edge; thumbs need the rest
BETWEEN, MOST_BETWEEN = 2.6, 6.0
"""Staff spaces between rows: at least, and drawn apart to fill a page at most."""
MOST_TITLE_LINES = 2  # a longer title is fitted into them
TORN = 0.3
"""What it costs to end a page within rows that stand close together, in shares of an empty page, squared."""


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
class PageRow:
    """What is put on pages in order: its outline, and the footnotes it brings."""

    items: tuple[Item, ...]
    top: float
    bottom: float
    indices: tuple[int, ...] = ()
    tight: bool = False  # it stands close under the row before

    @property
    def height(self) -> float:
        return self.bottom - self.top


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


def heading(
    score: Score, engraver: Engraver, frame: Frame, *, student: str = "", left_out: int = 0, title: str = "",
    subtitle: str = "",
) -> PageRow:  # fmt: skip
    """Return a sheet's title and what has to be known before it is played."""
    style, naming, choices = frame.style, engraver.naming, engraver.choices
    drawn: list[Item] = []
    y = 0.0
    text = " ".join((title or score.title or "Untitled solo").split())
    lines = wrapped(text[:1000], Typeface.TEXT_BOLD, style.title, frame.width)
    if len(lines) > MOST_TITLE_LINES:
        rest = " ".join(lines[MOST_TITLE_LINES - 1 :]) + "…"
        lines = [*lines[: MOST_TITLE_LINES - 1], fitted(rest, Typeface.TEXT_BOLD, style.title, frame.width)]
    for number, line in enumerate(lines):
        y += style.title * (1.0 if number == 0 else 1.15)
        drawn.append(words("title", line, 0.0, y, face=Typeface.TEXT_BOLD, size=style.title, group=f"title {number}"))
    facts = score.facts
    who = [subtitle, facts.player, facts.version, f"for {student}" if student else ""]
    tuning = score.tuning
    neck = [line + (" (frets counted from the nut)" if tuning.capo and not number else "")
            for number, line in enumerate(tuning_words(tuning, naming).splitlines())]  # fmt: skip
    if score.key is not None:
        key = engraver.written_key(0.0) or score.key
        neck.append(f"{key}, {'as it sounds' if choices.names is Names.SOUNDING else 'as called on the neck'}"
                    if tuning.shift else str(key))  # fmt: skip
    if not choices.garnish and left_out:
        neck.append(f"{many(left_out, 'note')} of garnish left out")
    for line in (" · ".join(part for part in who if part), " · ".join(neck)):
        for part in wrapped(line, Typeface.TEXT, style.text, frame.width)[:3]:
            y += 1.45 * style.text
            drawn.append(words("facts", part, 0.0, y, face=Typeface.TEXT, size=style.text, group=f"facts {y:.1f}"))
    return PageRow(tuple(drawn), 0.0, y + 0.8 * style.text)


def filled_pages(
    frame: Frame, head: PageRow, rows: Sequence[PageRow], engraver: Engraver, *, title: str
) -> tuple[Page, ...]:
    """Return rows on pages, each with its footnotes."""
    style = frame.style
    gap = BETWEEN * style.space
    feet = [_foot_lines(engraver, row, frame) for row in rows]
    line = 1.3 * 0.92 * style.text
    room = [frame.height - head.height - gap] + [frame.height] * len(rows)

    def loose(first: int, last: int) -> int:
        """How many of the gaps between some rows are drawn apart."""
        return sum(not row.tight for row in rows[first + 1 : last])

    def taken(first: int, last: int) -> float:
        height = sum(row.height for row in rows[first:last]) + gap * loose(first, last)
        count = sum(len(foot) for foot in feet[first:last])
        return height + (count * line + 1.5 * style.text if count else 0.0)

    def cost(first: int, last: int) -> float | None:
        free = (room[0] if first == 0 else frame.height) - taken(first, last)
        if free < 0:
            return None if last > first + 1 else 1e9 - free
        torn = TORN if last < len(rows) and rows[last].tight else 0.0
        return (free / frame.height) ** 2 * (1.0 if last < len(rows) else 0.05) + 1e-3 + torn

    ends = best_breaks(len(rows), cost)
    pages = []
    begin = 0
    for number, end in enumerate(ends):
        free = (room[0] if begin == 0 else frame.height) - taken(begin, end)
        count = loose(begin, end)
        apart = gap
        if number + 1 < len(ends) and count and free > 0:
            apart += min(free / count, (MOST_BETWEEN - BETWEEN) * style.space)
        pages.append(_page(frame, head if begin == 0 else None, rows[begin:end], apart,
                           feet[begin:end], title, number + 1, len(ends)))  # fmt: skip
        begin = end
    return tuple(pages)


def _foot_lines(engraver: Engraver, row: PageRow, frame: Frame) -> list[tuple[str, str]]:
    """The footnotes of a row in lines: the letter, which only the first line of each has, and the words."""
    size = 0.92 * frame.style.text
    lines: list[tuple[str, str]] = []
    for index in row.indices:
        if index in engraver.told:
            parts = wrapped(engraver.told[index], Typeface.TEXT, size, frame.width - 3.5 * size)
            lines += [(engraver.letters[index] if at == 0 else "", part) for at, part in enumerate(parts)]
    return lines


def _page(
    frame: Frame, head: PageRow | None, rows: Sequence[PageRow], apart: float,
    feet: Sequence[Sequence[tuple[str, str]]],
    title: str, number: int, count: int,
) -> Page:  # fmt: skip
    style, blocks = frame.style, []
    y = frame.margin
    if head is not None:
        blocks.append(Block(frame.margin, y, head.items))
        y += head.height + BETWEEN * style.space
    for at, row in enumerate(rows):
        y += apart if at and not row.tight else 0.0
        blocks.append(Block(frame.margin, y - row.top, row.items))
        y += row.height
    blocks.append(_footer(frame, title, number, count))
    lines = [line for foot in feet for line in foot]
    if lines:
        blocks.append(_footnotes(frame, lines))
    return Page(frame.page_width, frame.page_height, tuple(blocks), tuple(i for row in rows for i in row.indices))


def _footer(frame: Frame, title: str, number: int, count: int) -> Block:
    style = frame.style
    size = 0.85 * style.text
    pages = f"page {number} of {count}"
    wide = extent(pages, Typeface.FIGURE, size).advance
    name = fitted(
        " ".join((title or "Untitled solo")[:300].split()), Typeface.TEXT, size, frame.width - wide - 4 * size
    )
    y = frame.page_height - frame.margin
    return Block(
        frame.margin, y,
        (
            words("footer", name, 0.0, 0.0, face=Typeface.TEXT, size=size, group="footer", ink=Ink.SOFT),
            words("footer", pages, frame.width, 0.0, face=Typeface.FIGURE, size=size, group="pages", anchor=1.0,
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
            drawn.append(words("note letter", sign, 0.0, y, face=Typeface.TEXT_BOLD, size=size, group=f"foot {at}"))
        drawn.append(words("note", text, 2.6 * size, y, face=Typeface.TEXT, size=size, group=f"foot {at} text"))
    return Block(frame.margin, top, tuple(drawn))


def page_items(page: Page) -> list[Item]:
    """Return everything on a page where it lies there."""
    return [moved(item, block.y, block.x) for block in page.blocks for item in block.items]
