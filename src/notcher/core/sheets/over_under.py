"""What stands over and under a line: marks, footnotes, chords, titles; strokes, fingers, counts, remarks.

Skyline placement: everything is laid on the highest edge of what is there already, so that nothing meets.
"""

from collections.abc import Callable, Sequence
from itertools import groupby

from notcher.core.score import PickStroke as PickStroke
from notcher.core.sheets.column import Column
from notcher.core.sheets.items import Ink, Item, fill, sign, stroke, words
from notcher.core.sheets.line import SheetLine
from notcher.core.sheets.notation_words import tempo_mark
from notcher.core.sheets.skyline import Skyline
from notcher.core.sheets.typeface import Typeface, extent, fitted
from notcher.core.words import clock, count_word

DOUBTFUL_CHORD = 0.8
"""Below it a chord that was heard has a question mark."""
LONGEST_REMARK = 46.0
"""Ems of a remark that still stands under its note; a longer one is a footnote."""


# --- over the strings ---
def draw_over(line: SheetLine, over: Skyline) -> list[Item]:
    """Return the marks that belong to notes and stand over the strings."""
    engraver, style = line.engraver, line.engraver.style
    drawn: list[Item] = []

    def lay(items: Sequence[Item]) -> None:
        for item in items:
            over.add(item)
        drawn.extend(items)

    for column, x in zip(line.columns, line.xs, strict=True):
        if any("staccato" in engraver.names[index] for index in column.indices):
            y = over.edge(x - 0.3 * style.space, x + 0.3 * style.space) - 0.45 * style.space
            lay([sign("staccato", "augmentationDot", x, y, space=style.space, group=f"dot {column.start}", anchor=0.5)])
    for name, mark in (("palm_mute", _palm), ("trill", _trill)):
        for first, last in _spans(line, name):
            left, right = line.begin_of(first), line.xs[last] + line.columns[last].right
            edge = over.edge(left, right)
            lay(mark(line, left, right, edge - 0.4 * style.space, f"{name} {line.columns[first].start}"))
    for column, x in zip(line.columns, line.xs, strict=True):
        letters = [engraver.letters[index] for index in column.indices if index in engraver.letters]
        if letters:
            text = " ".join(letters)
            room = extent(text, Typeface.TEXT_BOLD, style.small)
            half = (room.right - room.left) / 2
            y = over.edge(x - half, x + half) - 0.3 * style.space - room.bottom
            letter = f"letter {column.start}"
            lay([words("footnote", text, x, y, face=Typeface.TEXT_BOLD, size=style.small, group=letter, anchor=0.5)])
    return drawn


def _spans(line: SheetLine, name: str) -> list[tuple[int, int]]:
    """Stretches of columns, bar lines between them included, all of whose notes have a name."""
    engraver = line.engraver
    marked_spans = [
        (at, all(name in engraver.names[index] for index in column.indices))
        for at, column in enumerate(line.columns)
        if column.indices
    ]
    spans = []
    for has, group in groupby(marked_spans, key=lambda pair: pair[1]):
        if has:
            inside = [at for at, _ in group]
            spans.append((inside[0], inside[-1]))
    return spans


def _palm(line: SheetLine, left: float, right: float, bottom: float, group: str) -> list[Item]:
    """A hatched band, as in the tab on the screen: the heel of the hand lies on the strings."""
    style = line.engraver.style
    high, step = 0.55 * style.space, 0.55 * style.space
    count = max(2, round((right - left - high) / step))
    apart = (right - left - high) / count
    return [
        stroke("palm", [(left + at * apart, bottom), (left + at * apart + high, bottom - high)], 0.6 * style.mark,
               group=group)
        for at in range(count + 1)
    ]  # fmt: skip


def _trill(line: SheetLine, left: float, right: float, bottom: float, group: str) -> list[Item]:
    style = line.engraver.style
    high = 0.5 * style.space
    count = max(3, round((right - left) / (0.5 * style.space)))
    step = (right - left) / count
    points = [(left + at * step, bottom - (high if at % 2 else 0.0)) for at in range(count + 1)]
    return [stroke("trill", points, 0.7 * style.mark, group=group)]


# --- titles ---
def draw_titles(line: SheetLine, over: Skyline, *, sections: bool = True) -> list[Item]:
    """Return what stands over everything: bar numbers, chords, what a bar is the same as, phrases, sections."""
    drawn: list[Item] = []

    def lay(items: Sequence[Item]) -> None:
        for item in items:
            over.add(item)
        drawn.extend(items)

    for rows in (_bar_numbers, _chords, _said, _phrases):
        lay(rows(line, over))
    if sections:
        for titled in _sections(line, over):
            lay(titled)
    return drawn


def _bar_numbers(line: SheetLine, over: Skyline) -> list[Item]:
    """Each bar's number over its line; the first of a line also says when it begins."""
    engraver, style = line.engraver, line.engraver.style
    drawn: list[Item] = []
    numbered: set[int] = set()
    for at, column in enumerate(line.columns):
        if not (column.pieces or column.folded) or column.bar in numbered or column.bar < 0:
            continue
        numbered.add(column.bar)
        bar = engraver.printed[column.bar].bar
        first = not drawn
        begun = column.start > bar.start  # the line goes on in a bar that began above
        before = at - 1 if at and line.columns[at - 1].line else at
        x = line.begin if first else min(line.xs[before], line.begin_of(at))
        text = f"({bar.number})" if begun else str(bar.number)
        text = text if bar.number > 0 else "pickup"
        if first:
            text = f"{text}  {clock(column.time_s, engraver.naming)}"
        room = extent(text, Typeface.FIGURE, 0.85 * style.small)
        # well clear of what stands beside it: a bar's number must not be read as a bend's
        y = over.edge(x - 1.2 * style.space, x + room.right + 1.2 * style.space) - 0.35 * style.space
        drawn.append(words("bar number", text, x, y, face=Typeface.FIGURE, size=0.85 * style.small, ink=Ink.SOFT,
                           group=f"number {bar.number} {column.start}"))  # fmt: skip
    if not engraver.bars and line.times_s:
        text = clock(line.times_s[0], engraver.naming)
        y = over.edge(line.begin, line.begin + 8 * style.space) - 0.35 * style.space
        drawn.append(words("time", text, line.begin, y, face=Typeface.FIGURE, size=0.85 * style.small, ink=Ink.SOFT,
                           group="time"))  # fmt: skip
    return drawn


def _row_y(line: SheetLine, over: Skyline, spans: Sequence[tuple[float, float]], gap: float) -> float:
    """A baseline that clears everything under all spans."""
    apart = line.engraver.style.space  # a figure close beside would be read as a part of it
    return min(over.edge(left - apart, right + apart) for left, right in spans) - gap


def _chords(line: SheetLine, over: Skyline) -> list[Item]:
    """Chord symbols on one height; one that would meet the one before steps to the right, at the edge a row up."""
    engraver, style = line.engraver, line.engraver.style
    if not engraver.choices.chords or not line.times_s:
        return []
    first_s, last_s = line.columns[0].time_s, line.columns[-1].time_s
    last_s = max(last_s, line.times_s[-1])
    placed: list[tuple[str, float, float]] = []
    free = line.begin
    for chord in engraver.score.chords:
        if not first_s - 0.05 <= chord.start_s < last_s - (0.05 if line.columns[-1].line else -0.05):
            continue
        name = engraver.chord_name(chord.name, chord.start_s) + ("?" if chord.certainty < DOUBTFUL_CHORD else "")
        room = extent(name, Typeface.TEXT_BOLD, style.chord)
        x = max(line.x_at(chord.start_s) - 0.8 * style.space, free)
        placed.append((name, x, x + room.right - room.left))
        free = x + room.right - room.left + 0.8 * style.space
    if not placed:
        return []
    over_end = placed[-1][2] - line.engraver.line_width
    if over_end > 0:  # closed up towards the left, as far as there is room
        placed = [(name, left - over_end, right - over_end) for name, left, right in placed]
    y = _row_y(line, over, [(left, right) for _, left, right in placed], 0.55 * style.space)
    return [
        words("chord", name, left, y, face=Typeface.TEXT_BOLD, size=style.chord, group=f"chord {at}")
        for at, (name, left, _) in enumerate(placed)
    ]


def _said(line: SheetLine, over: Skyline) -> list[Item]:
    """What a bar is the same as; how often what is repeated is played; tempo and swing."""
    engraver, style = line.engraver, line.engraver.style
    drawn: list[Item] = []
    for at, column in enumerate(line.columns):
        if column.says:
            right_side = bool(column.line)
            text = fitted(column.says, Typeface.TEXT, style.text, 0.6 * engraver.line_width)
            room = extent(text, Typeface.TEXT, style.text)
            wide = room.right - room.left
            x = line.xs[at] - wide if right_side else line.begin_of(at)
            x = max(line.begin, min(x, engraver.line_width - wide))
            y = over.edge(x, x + wide) - 0.45 * style.space - room.bottom
            drawn.append(words("same", text, x, y, face=Typeface.TEXT, size=style.text, group=f"says {column.start}",
                               ink=Ink.FULL if right_side else Ink.SOFT))  # fmt: skip
            over.add(drawn[-1])
    marks = tempo_mark(line, over)
    for item in marks:
        over.add(item)
    return [*drawn, *marks]


def _phrases(line: SheetLine, over: Skyline) -> list[Item]:
    """A phrase's name where it begins, and when that is in the recording."""
    engraver, style = line.engraver, line.engraver.style
    drawn: list[Item] = []
    for at, column in enumerate(line.columns):
        phrase = column.phrase
        if phrase is None:
            continue
        text = f"{phrase.name or 'Phrase'}  {clock(phrase.start_s, engraver.naming)}"
        text = fitted(text, Typeface.TEXT_BOLD, style.text, 0.8 * engraver.line_width)
        room = extent(text, Typeface.TEXT_BOLD, style.text)
        wide = room.right - room.left
        x = min(line.begin_of(at), engraver.line_width - wide)
        y = over.edge(x, x + wide) - 0.6 * style.space - room.bottom
        drawn.append(
            words("phrase", text, x, y, face=Typeface.TEXT_BOLD, size=style.text, group=f"phrase {column.start}")
        )
        over.add(drawn[-1])
    return drawn


def _sections(line: SheetLine, over: Skyline) -> list[list[Item]]:
    """A section's name in a frame, and when it begins, over the column that is its first."""
    engraver, style = line.engraver, line.engraver.style
    result = []
    for section in engraver.score.sections:
        firsts = engraver.section_starts.get(section.id)
        at = next(
            (at for at, column in enumerate(line.columns) if (firsts is not None and firsts in column.indices)
             or (column.folded and section.holds(column.time_s) and column.phrase is not None)), None
        )  # fmt: skip
        if at is None:
            continue
        text = f"{section.name or 'Section'}  {clock(section.start_s, engraver.naming)}"
        text = fitted(text, Typeface.TEXT_BOLD, style.chord * 0.85, 0.8 * engraver.line_width)
        room = extent(text, Typeface.TEXT_BOLD, style.chord * 0.85)
        pad = 0.5 * style.space
        wide = room.right - room.left + 2 * pad
        x = max(line.begin, min(line.begin_of(at), engraver.line_width - wide))
        y = over.edge(x, x + wide) - 0.6 * style.space - pad - room.bottom
        group = f"section {section.id}"
        title_words = words("section", text, x + pad, y, face=Typeface.TEXT_BOLD, size=style.chord * 0.85, group=group)
        box = title_words.box.grown(pad)
        corners = [(box.left, box.top), (box.right, box.top), (box.right, box.bottom), (box.left, box.bottom)]
        frame = stroke("section", [*corners, corners[0]], style.line, group=group)
        result.append([frame, title_words])
    return result


# --- under the strings ---
def draw_under(line: SheetLine, under: Skyline) -> list[Item]:
    """Return the rows under the rhythm: pick strokes, fingers, counts, each on one height; then remarks."""
    engraver = line.engraver
    choices, drawn = engraver.choices, []
    rows: list[tuple[bool, str, Callable[[SheetLine, Column], str]]] = [
        (choices.strokes, "pick", _stroke_word),
        (choices.fingers, "finger", _finger_word),
        (choices.counts and bool(engraver.bars), "count", _count),
    ]
    for wanted, name, marks in rows:
        if not wanted:
            continue
        row = [(at, marks(line, column)) for at, column in enumerate(line.columns) if column.indices]
        row = [(at, text) for at, text in row if text]
        if row:
            items = _row(line, under, name, row)
            for item in items:
                under.add(item)
            drawn += items
    if choices.remarks:
        for item in _remarks(line, under):
            under.add(item)
            drawn.append(item)
    return drawn


def _stroke_word(line: SheetLine, column: Column) -> str:
    strokes = [line.engraver.note(index).stroke for index in column.indices]
    return next((pick_stroke.value for pick_stroke in strokes if pick_stroke is not None), "")


def _finger_word(line: SheetLine, column: Column) -> str:
    """The fingers of a column from the highest string down."""
    notes = sorted((line.engraver.note(index) for index in column.indices), key=lambda note: note.string)
    return " ".join(str(note.finger) for note in notes if note.finger is not None)


def _count(line: SheetLine, column: Column) -> str:
    return count_word(line.engraver.times[column.indices[0]])


def _row(line: SheetLine, under: Skyline, name: str, row: Sequence[tuple[int, str]]) -> list[Item]:
    """One row with its name before it; what has no room between its neighbours is smaller, see `_fit`."""
    style = line.engraver.style
    size = 0.92 * style.small
    top = under.outermost + 0.5 * style.space
    base = top + 0.75 * size
    label = words("row name", name, line.begin - 0.5 * style.space, base, face=Typeface.TEXT, size=0.72 * style.small,
                  group=f"row {name}", anchor=1.0, ink=Ink.SOFT)  # fmt: skip
    drawn: list[Item] = [label] if label.box.left >= -3 * style.space else []
    for number, (at, text) in enumerate(row):
        x, group = line.xs[at], f"{name} {line.columns[at].start}"
        if name == "pick":
            drawn.append(_tooth(line, x, top, 0.75 * size, down=text == PickStroke.DOWN.value, group=group))
            continue
        before = line.xs[row[number - 1][0]] if number else line.begin - style.space
        after = line.xs[row[number + 1][0]] if number + 1 < len(row) else line.end + style.space
        room = min(x - before, after - x) - 0.25 * style.space
        drawn.append(_fit(name, text, x, base, size, room, group))
    return drawn


def _fit(name: str, text: str, x: float, y: float, size: float, room: float, group: str) -> Item:
    """A text about a middle, no wider than there is room."""
    wide = extent(text, Typeface.FIGURE, size)
    size *= min(1.0, max(0.3, room / max(wide.right - wide.left, 1e-6)))
    return words(name, text, x, y, face=Typeface.FIGURE, size=size, group=group, anchor=0.5)


def _tooth(line: SheetLine, x: float, top: float, high: float, *, down: bool, group: str) -> Item:
    """A tooth that points the way the pick goes, as in the tab on the screen."""
    half = 0.32 * line.engraver.style.space
    base, tip = (top, top + high) if down else (top + high, top)
    return fill("pick", [(x - half, base), (x + half, base), (x, tip)], group=group, ink=Ink.FULL)


def _remarks(line: SheetLine, under: Skyline) -> list[Item]:
    engraver, style = line.engraver, line.engraver.style
    drawn: list[Item] = []
    for at, column in enumerate(line.columns):
        texts = [engraver.note(index).remark for index in column.indices if short_remark(engraver.note(index).remark)]
        if not texts:
            continue
        text = fitted("; ".join(texts), Typeface.TEXT, style.text, engraver.line_width - line.begin)
        room = extent(text, Typeface.TEXT, style.text)
        wide = room.right - room.left
        x = max(line.begin, min(line.begin_of(at), engraver.line_width - wide))
        y = under.edge(x - 0.5 * style.space, x + wide + 0.5 * style.space) + 0.5 * style.space - room.top
        drawn.append(words("remark", text, x, y, face=Typeface.TEXT, size=style.text, group=f"remark {column.start}"))
        under.add(drawn[-1])
    return drawn


def short_remark(remark: str) -> bool:
    """Whether a remark stands under its note; a longer one is a footnote."""
    return bool(remark) and extent(remark, Typeface.TEXT, 1.0).advance <= LONGEST_REMARK
