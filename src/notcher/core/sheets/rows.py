"""Columns broken into lines, and the columns of a part of a solo."""

from collections.abc import Sequence

from notcher.core.score import Score
from notcher.core.sheets.breaking import line_breaks
from notcher.core.sheets.choices import SheetChoices
from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.flow import gaps
from notcher.core.sheets.footnotes import footnotes, letter
from notcher.core.sheets.lead import lead_width
from notcher.core.sheets.page import Frame, PageRow
from notcher.core.sheets.system import System, build_system
from notcher.core.words import Naming


def engraver_for(
    score: Score, choices: SheetChoices, naming: Naming, frame: Frame, before: Engraver | None = None
) -> Engraver:
    """Return what engraves a solo on pages, its footnotes lettered. before: see `Engraver`."""
    engraver = Engraver(score, choices, frame.style, naming, frame.width, before)
    bars = [time.bar for time in engraver.times]
    engraver.told = footnotes(score, choices, engraver.naming, bars)
    engraver.letters = {index: letter(at) for at, index in enumerate(engraver.told)}
    return engraver


def rows_of(
    engraver: Engraver,
    flow: Sequence[Column],
    *,
    first: bool,
    sections: bool = True,
    drawn: "DrawnLines | None" = None,
) -> list[PageRow]:
    """Return columns as lines, drawn.

    first: whether the sheet begins with them. sections: whether they are named. drawn: lines that were drawn before.
    """
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
        part, opens = flow[begin:end], first and begin == 0
        if drawn is not None:
            system = drawn.system(engraver, part, first=opens)
        else:
            system = build_system(engraver, part, first=opens, sections=sections)
        indices = tuple(dict.fromkeys(index for column in part for index in column.indices))
        rows.append(PageRow(system.items, system.top, system.bottom, indices))
        begin = end
    return rows


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
    while last < len(flow) and flow[last].pieces and not flow[last].indices:
        last += 1  # the rests up to the bar's end
    if last < len(flow) and flow[last].line:
        last += 1
    return list(flow[mine[0] : last])


class DrawnLines:
    """Lines as they were drawn for the last sheet: after a small edit nearly all of them are the same."""

    def __init__(self) -> None:
        self._last: dict[object, System] = {}
        self._now: dict[object, System] = {}

    def next_sheet(self) -> None:
        """Begin a new sheet; what the one before last needed is forgotten."""
        self._last, self._now = self._now, {}

    def system(self, engraver: Engraver, columns: Sequence[Column], *, first: bool) -> System:
        """Return a line, drawn anew only where something on it is new."""
        key = _line_key(engraver, columns, first)
        system = self._now.get(key) or self._last.get(key)
        if system is None:
            system = build_system(engraver, columns, first=first)
        self._now[key] = system
        return system


def _line_key(engraver: Engraver, columns: Sequence[Column], first: bool) -> object:
    """Everything that decides how a line is drawn, in values."""
    score = engraver.score
    begin_s, end_s = columns[0].time_s, columns[-1].time_s + columns[-1].quarters
    chords = tuple(chord for chord in score.chords if begin_s - 1.0 <= chord.start_s <= end_s + 1.0)
    starts = {index: section for section, index in engraver.section_starts.items()}
    sections = tuple((s.id, s.name, s.start_s) for s in score.sections)
    named = tuple(starts.get(index, "") for column in columns for index in column.indices)
    frame = (engraver.choices, engraver.naming, engraver.style.space, engraver.line_width, score.tuning)
    beat = (score.beat_map.swings, score.beat_map.tempo_bpm, engraver.bars[0].start if engraver.bars else 0)
    key = (engraver.written_key(begin_s), score.sounding_key_at(begin_s))
    return (frame, beat, key, chords, sections, named, first, tuple(_column_key(engraver, c) for c in columns))


def _column_key(engraver: Engraver, column: Column) -> object:
    bar = engraver.printed[column.bar].bar if column.bar >= 0 and engraver.bars else None
    place = (column.start, column.quarters, column.time_s, column.line, column.meter, column.folded, column.says)
    room = (column.left, column.right, column.after, column.extra, column.phrase)
    signs = tuple(
        (voice, piece.start, piece.length, piece.tied_from, piece.tied_to, piece.tuplet, piece.beam, piece.up,
         piece.whole_bar, tuple(_note_key(engraver, index) for index in piece.indices))
        for voice, piece in column.pieces
    )  # fmt: skip
    return (place, room, signs, None if bar is None else (bar.number, bar.start, bar.tuplets))


def _note_key(engraver: Engraver, index: int) -> object:
    time = engraver.times[index] if engraver.times else None
    count = None if time is None else (time.beat, time.part, time.grid.name, time.compound)
    head = engraver.heads.get(index) if engraver.staff else None
    head_facts = None if head is None else (head.step, head.accidental)
    return (
        engraver.note(index),
        engraver.names[index],
        engraver.letters.get(index),
        engraver.rises[index],
        count,
        head_facts,
    )
