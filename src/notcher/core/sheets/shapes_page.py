"""One page of the shapes of a solo: each as it is first played, and where it comes again."""

from dataclasses import replace

from notcher.core.errors import CancelCheck, Cancelled
from notcher.core.patterns import Kind, Pattern, patterns
from notcher.core.score import Score
from notcher.core.sheets.choices import SCALES, Repeats, SheetChoices
from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.errors import NothingToPrintError
from notcher.core.sheets.flow import columns
from notcher.core.sheets.items import Item, moved, words
from notcher.core.sheets.page import BETWEEN, Frame, Page, PageRow, filled_pages, heading
from notcher.core.sheets.rows import engraver_for, note_columns, rows_of
from notcher.core.sheets.style import SPACE_MM, Style
from notcher.core.sheets.typeface import Typeface, wrapped
from notcher.core.words import Naming, bar_words, clock, many, moved_words, shape_words, statement

SMALLER = 0.85
"""A page of shapes is a page to look things up on: its print is a little smaller."""


def shapes_page(
    score: Score, choices: SheetChoices, naming: Naming, *, student: str, cancelled: CancelCheck
) -> tuple[Page, ...]:
    """Return the one page. Shapes that have no room on it are counted in its last line.

    Raises: NothingToPrintError where nothing comes again, Cancelled.
    """
    all_patterns = patterns(score, cancelled=cancelled)
    if not all_patterns.shapes:
        raise NothingToPrintError("Nothing in this solo comes again.", "Print pages or cards instead.")
    shown = replace(choices, counts=False, strokes=False, chords=False, repeats=Repeats.WRITTEN, remarks=False,
                    footnotes=False)  # fmt: skip
    frame = Frame(*choices.page_mm, Style(SPACE_MM * SCALES[choices.size] * SMALLER))
    engraver = engraver_for(score, shown, naming, frame)
    flow = columns(engraver, engraver.printed)
    head = heading(score, engraver, frame, student=student, title=f"{score.title or 'Untitled solo'}: its shapes",
                   subtitle=statement(all_patterns))  # fmt: skip
    gap = BETWEEN * frame.style.space
    free = frame.height - head.height - gap - 2.5 * frame.style.text
    rows: list[PageRow] = []
    left_out = 0
    for number, shape in enumerate(sorted(all_patterns.shapes, key=lambda shape: -shape.saves), 1):
        if cancelled():
            raise Cancelled
        mine = [] if left_out else _shape_rows(engraver, flow, shape, number)
        tall = sum(row.height + gap for row in mine)
        if left_out or (rows and tall > free):
            left_out += 1
            continue
        free -= tall
        rows += mine
    if left_out:
        style = frame.style
        more_words = words("more", f"and {many(left_out, 'shape')} more, each of which saves less", 0.0, style.text,
                     face=Typeface.TEXT, size=style.text, group="more")  # fmt: skip
        rows.append(PageRow((more_words,), 0.0, 1.4 * style.text))
    return filled_pages(frame, head, rows, engraver, title=score.title)


def _shape_rows(engraver: Engraver, flow: list[Column], shape: Pattern, number: int) -> list[PageRow]:
    """A shape's name and first playing, and after it where it comes again."""
    first = shape.occurrences[0]
    inside = set(range(first.first, first.last + 1))
    part = [replace(column, phrase=None) for column in note_columns(flow, inside)]
    rows = rows_of(engraver, part, first=False, sections=False)
    turned = shape.kind in (Kind.CELL, Kind.SEQUENCE)
    text = shape_words(shape) if turned else many(shape.notes, "note")
    title = f"{number}   {_place(engraver, first.first)}: {text}; saves {many(shape.saves, 'note')}"
    rows[0] = _with_text(engraver, rows[0], title, Typeface.TEXT_BOLD, over=True)
    ways: dict[str, list[str]] = {}
    for occurrence in shape.occurrences[1:]:
        ways.setdefault(moved_words(occurrence, shape.kind), []).append(_at(engraver, occurrence.first))
    again = "; ".join(f"{way}: {', '.join(places)}" for way, places in ways.items())
    rows[-1] = _with_text(engraver, rows[-1], again, Typeface.TEXT, over=False)
    return rows


def _at(engraver: Engraver, index: int) -> str:
    """Where a note is: its bar, and when in the recording."""
    at = clock(engraver.note(index).onset_s, engraver.naming)
    return f"{bar_words(engraver.times[index].bar)} ({at})" if engraver.times else at


def _place(engraver: Engraver, index: int) -> str:
    """The same with the phrase's name."""
    phrase = engraver.score.phrase_at(engraver.note(index).onset_s)
    name = phrase.name if phrase is not None else ""
    at = _at(engraver, index)
    return f"{name}, {at}" if name else at[:1].upper() + at[1:]


def _with_text(engraver: Engraver, row: PageRow, text: str, face: Typeface, *, over: bool) -> PageRow:
    """A row with lines of words over or under it."""
    style = engraver.style
    lines = wrapped(text, face, style.text, engraver.line_width)
    step = 1.35 * style.text
    high = len(lines) * step + 0.5 * style.space
    top = row.top - high if over else row.bottom + 0.5 * style.space
    items: list[Item] = [
        words("shape", line, 0.0, top + 0.8 * step + at * step, face=face, size=style.text, group=f"shape {text} {at}")
        for at, line in enumerate(lines)
    ]
    return PageRow((*row.items, *(moved(item, 0.0) for item in items)), min(row.top, top), max(row.bottom, top + high),
               row.indices)  # fmt: skip
