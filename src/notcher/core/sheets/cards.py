"""One card a phrase: half a page, so that it can be cut out and stood up."""

from dataclasses import replace

from notcher.core.errors import CancelCheck, Cancelled, Progress
from notcher.core.score import Phrase, Score
from notcher.core.sheets.choices import SCALES, Repeats, SheetChoices
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.errors import NothingToPrintError
from notcher.core.sheets.flow import columns, meter_column
from notcher.core.sheets.legend import legend, used_marks
from notcher.core.sheets.page import Frame, Page, PageRow, filled_pages, heading
from notcher.core.sheets.rows import engraver_for, note_columns, rows_of
from notcher.core.sheets.style import SPACE_MM, Style
from notcher.core.words import Naming, bar_words, clock, figure

LARGER = 1.12
"""A card's print against a page's: there is room."""
CARD_MARGIN_MM = 11.0  # room for the scissors


def cards(
    score: Score, choices: SheetChoices, naming: Naming, *, student: str, progress: Progress,
    cancelled: CancelCheck,
) -> tuple[Page, ...]:  # fmt: skip
    """Return a card for each phrase that has notes, and one with the legend. Raises: NothingToPrintError, Cancelled."""
    phrases = [phrase for phrase in score.phrases if len(score.notes_of(phrase))]
    if not phrases:
        raise NothingToPrintError("There are no phrases to put on cards.", "Name some phrases first, or print pages.")
    width, height = choices.page_mm
    size = (width / 2, height) if choices.landscape else (width, height / 2)
    frame = Frame(*size, Style(SPACE_MM * SCALES[choices.size] * LARGER), CARD_MARGIN_MM)
    engraver = engraver_for(score, replace(choices, repeats=Repeats.WRITTEN), naming, frame)
    flow = columns(engraver, engraver.printed)
    pages: list[Page] = []
    for number, phrase in enumerate(phrases):
        if cancelled():
            raise Cancelled
        inside = set(score.notes_of(phrase))
        part = [replace(column, phrase=None) for column in note_columns(flow, inside)]
        part = [*meter_column(engraver, part[0]), *part]
        head = heading(score, engraver, frame, student=student, title=phrase.name or "Phrase",
                       subtitle=_facts(engraver, score, phrase))  # fmt: skip
        rows = rows_of(engraver, part, first=True, sections=False)
        title = f"{score.title or 'Untitled solo'}: {phrase.name or 'Phrase'}"
        pages += filled_pages(frame, head, rows, engraver, title=title)
        progress((number + 1) / len(phrases))
    if choices.legend and (names := used_marks(engraver)):
        head = heading(score, engraver, frame, title="Marks on these cards")
        entries = [
            PageRow(tuple(items), 0.0, tall, tight=True)
            for items, tall in legend(engraver, names, frame.width, titled=False)
        ]
        pages += filled_pages(frame, head, entries, engraver, title=score.title)
    return tuple(pages)


def _facts(engraver: Engraver, score: Score, phrase: Phrase) -> str:
    """Where a phrase is in the solo, and how fast."""
    parts = [score.title, clock(phrase.start_s, engraver.naming) + " to " + clock(phrase.end_s, engraver.naming)]
    bars = sorted({engraver.times[index].bar for index in score.notes_of(phrase)}) if engraver.times else []
    if bars:
        parts.append(bar_words(bars[0], bars[-1]))
    if score.beat_map.known:
        parts.append(f"{figure(score.beat_map.tempo_at(phrase.start_s), naming=engraver.naming)} beats a minute")
    return " · ".join(part for part in parts if part)
