"""Columns broken into lines, and the columns of a part of a solo."""

from collections.abc import Sequence

from notcher.core.score import Score
from notcher.core.sheets.breaking import line_breaks
from notcher.core.sheets.choices import SheetChoices
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.flow import Column, gaps
from notcher.core.sheets.footnotes import footnotes, letter
from notcher.core.sheets.lead import lead_width
from notcher.core.sheets.page import Frame, Row
from notcher.core.sheets.system import build_system
from notcher.core.words import Naming


def engraver_for(score: Score, choices: SheetChoices, naming: Naming, frame: Frame) -> Engraver:
    """Return what engraves a solo on pages, its footnotes lettered."""
    engraver = Engraver(score, choices, frame.style, naming, frame.width)
    bars = [time.bar for time in engraver.times]
    engraver.told = footnotes(score, choices, engraver.naming, bars)
    engraver.letters = {index: letter(at) for at, index in enumerate(engraver.told)}
    return engraver


def rows_of(engraver: Engraver, flow: Sequence[Column], *, first: bool, sections: bool = True) -> list[Row]:
    """Return columns as lines, drawn. first: whether the sheet begins with them. sections: whether they are named."""
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
        system = build_system(engraver, flow[begin:end], first=first and begin == 0, sections=sections)
        rows.append(Row(system.items, system.top, system.bottom, system.indices))
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
