"""Whole pages: title, lines, footnotes, legend; where a page ends is weighed over all of them."""

from collections.abc import Sequence
from dataclasses import replace

from notcher.core.errors import CancelCheck, Cancelled, Progress, never_cancelled, no_progress
from notcher.core.score import Score, Variant
from notcher.core.sheets.cards import cards
from notcher.core.sheets.choices import SCALES, Easier, Repeats, Sheet, SheetChoices
from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.errors import NothingToPrintError
from notcher.core.sheets.flow import columns
from notcher.core.sheets.legend import legend, used_marks
from notcher.core.sheets.page import Frame, Page, PageRow, filled_pages, heading
from notcher.core.sheets.rows import DrawnLines, engraver_for, phrase_columns, rows_of
from notcher.core.sheets.shapes_page import shapes_page
from notcher.core.sheets.style import SPACE_MM, Style
from notcher.core.words import USUAL, Naming


class PageMaker:
    """Lays out sheets, and keeps what does not change from one sheet to the next, so that a small edit is quick."""

    def __init__(self) -> None:
        self._drawn = DrawnLines()
        self._before: Engraver | None = None

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
            return cards(shown, choices, naming, student=student, progress=progress, cancelled=cancelled)
        if choices.sheet is Sheet.SHAPES:
            return shapes_page(shown, choices, naming, student=student, cancelled=cancelled)
        frame = Frame(*choices.page_mm, Style(SPACE_MM * SCALES[choices.size]))
        engraver = self._before = engraver_for(shown, choices, naming, frame, self._before)
        engraver.drop_before()
        flow = columns(engraver, engraver.printed)
        self._drawn.next_sheet()
        progress(0.2)
        rows: list[PageRow] = []
        for number, (part, variant) in enumerate(_parts(score, flow, choices)):
            if cancelled():
                raise Cancelled
            rows += rows_of(engraver, part, first=number == 0, drawn=self._drawn)
            if variant is not None:
                rows += self._variant_rows(score, variant, choices, naming, frame)
        progress(0.8)
        tail: list[PageRow] = []
        if choices.legend and (names := used_marks(engraver)):
            tail = [
                PageRow(tuple(items), 0.0, height, tight=at > 0)
                for at, (items, height) in enumerate(legend(engraver, names, frame.width))
            ]
        head = heading(score, engraver, frame, student=student, left_out=len(score.notes) - len(shown.notes))
        result = filled_pages(frame, head, [*rows, *tail], engraver, title=score.title)
        progress(1.0)
        return result

    def _variant_rows(
        self, score: Score, variant: Variant, choices: SheetChoices, naming: Naming, frame: Frame
    ) -> list[PageRow]:
        """The lines of a phrase's easier variant, for under it."""
        phrase = score.phrase_of(variant.phrase)
        if phrase is None:
            return []
        played = score.with_variant(variant)
        named = replace(phrase, name=f"{phrase.name or 'Phrase'}, {variant.name or 'easier'}")
        others = tuple(named if other.id == phrase.id else other for other in played.phrases)
        easier = as_printed(replace(played, phrases=others, sections=()), replace(choices, easier=Easier.LEFT_OUT))
        engraver = engraver_for(easier, replace(choices, repeats=Repeats.WRITTEN), naming, frame)
        flow = columns(engraver, engraver.printed)
        return rows_of(engraver, phrase_columns(engraver, flow, phrase.id), first=False)


def as_printed(score: Score, choices: SheetChoices) -> Score:
    """Return the solo as a sheet shows it: with easier variants instead, without garnish, where that was chosen."""
    if choices.easier is Easier.INSTEAD:
        for variant in easier_variants(score).values():
            score = replace(score.with_variant(variant), variants=score.variants)
    if not choices.garnish:
        score = score.without(note.id for note in score.notes if note.garnish)
    return score


def easier_variants(score: Score) -> dict[str, Variant]:
    """Return the first variant of each phrase that is for this neck, by the phrase's id."""
    variants: dict[str, Variant] = {}
    for variant in score.variants:
        if variant.tuning is None and score.phrase_of(variant.phrase) is not None:
            variants.setdefault(variant.phrase, variant)
    return variants


def _parts(score: Score, flow: Sequence[Column], choices: SheetChoices) -> list[tuple[list[Column], Variant | None]]:
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
