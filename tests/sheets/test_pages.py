"""Pages: nothing meets, nothing is lost, every box is honest; what cannot be printed is told."""

from dataclasses import replace
from itertools import cycle, islice
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtGui import QColor, QImage, QPainter

from made_scores import HARD, any_score
from notcher.core.errors import Cancelled
from notcher.core.score import BeatMap, Chord, Key, Note, Phrase, Score, Variant
from notcher.core.sheets import (
    Box,
    Easier,
    FontMissingError,
    Item,
    Lines,
    Names,
    NothingToPrintError,
    Page,
    PageMaker,
    Paper,
    Repeats,
    Sheet,
    SheetChoices,
    Size,
    Words,
    page_items,
    typeface,
)
from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.flow import _line_room, columns
from notcher.core.sheets.items import bounds
from notcher.core.sheets.page import Frame
from notcher.core.sheets.rows import DrawnLines, engraver_for, rows_of
from notcher.core.sheets.style import Style
from notcher.core.sheets.system import _bar_line, _places
from notcher.core.words import USUAL, BendNames, StringNames
from notcher.demo.solo import demo_score
from notcher.painting.sheet_picture import paint_item
from notcher.painting.theme import load_fonts

SLACK_MM = 0.02
KINDS = (
    SheetChoices(),
    SheetChoices(staff=True, names=Names.SOUNDING, strings=StringNames.LETTERS),
    SheetChoices(rhythm=False, paper=Paper.LETTER, repeats=Repeats.FOLDED, bends=BendNames.SOUNDS),
    SheetChoices(size=Size.LARGE, landscape=True, lines=Lines.BARS),
    SheetChoices(sheet=Sheet.CARDS, staff=True, size=Size.SMALL),
    SheetChoices(size=Size.SMALL, staff=True, repeats=Repeats.WRITTEN, bends=BendNames.FRETS),
)


def meetings(page: Page) -> list[tuple[Item, Item]]:
    """Things that do not belong together and share ink's room."""
    items = sorted((item for item in page_items(page) if item.group), key=lambda item: item.box.left)
    found = []
    for at, first in enumerate(items):
        for second in items[at + 1 :]:
            if second.box.left > first.box.right:
                break
            if first.group == second.group or not first.box.overlaps(second.box, SLACK_MM):
                continue
            if any(a.overlaps(b, SLACK_MM) for a in first.parts for b in second.parts):
                found.append((first, second))
    return found


def holds(outer: Box, inner: Box, slack: float = 0.0) -> bool:
    """Whether one box lies within another, but for so much."""
    across = outer.left - slack <= inner.left and inner.right <= outer.right + slack
    return across and outer.top - slack <= inner.top and inner.bottom <= outer.bottom + slack


def told(pair: tuple[Item, Item]) -> str:
    return " / ".join(f"{item.kind} {item.group} {getattr(item, 'text', '')}" for item in pair)


def check(pages: tuple[Page, ...], score: Score) -> None:
    for page in pages:
        assert not [told(pair) for pair in meetings(page)]
        paper = Box(0.0, 0.0, page.width, page.height)
        for item in page_items(page):
            assert holds(paper, item.box), item
    assert {index for page in pages for index in page.indices} == set(range(len(score.notes)))


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(30))
def test_nothing_meets_on_any_page_and_every_note_is_on_one(seed: int) -> None:
    choices = next(islice(cycle(KINDS), seed, None))
    score = any_score(seed, beat=seed % 7 != 6)
    pages = PageMaker().pages(score, choices)
    if choices.repeats is Repeats.FOLDED:
        shown = {index for page in pages for index in page.indices}
        score = replace(score, notes=tuple(note for at, note in enumerate(score.notes) if at in shown))
        assert not [pair for page in pages for pair in meetings(page)]
    else:
        check(pages, score)


@pytest.mark.slow
@pytest.mark.parametrize("choices", [kind for kind in KINDS if kind.repeats is not Repeats.FOLDED], ids=range(5))
def test_nothing_meets_on_the_demos_pages(choices: SheetChoices) -> None:
    check(PageMaker().pages(demo_score(), choices), demo_score())


@pytest.mark.slow
@pytest.mark.parametrize("name", HARD)
@pytest.mark.parametrize("staff", [False, True])
def test_nothing_meets_where_it_is_dense_long_or_high(name: str, staff: bool) -> None:
    score = HARD[name]()
    check(PageMaker().pages(score, SheetChoices(staff=staff)), score)


# --- honest boxes ---
SCALE = 24  # pixels a millimetre
EDGE_PX = 2.0  # a line's smooth edge


def ink_of(item: Item) -> tuple[float, float, float, float] | None:
    """Where a thing painted alone leaves ink: left, top, right, bottom in millimetres."""
    pad = 2.0
    left, top = item.box.left - pad, item.box.top - pad
    size = (item.box.right - left + pad, item.box.bottom - top + pad)
    image = QImage(round(size[0] * SCALE), round(size[1] * SCALE), QImage.Format.Format_Grayscale8)
    image.fill(QColor("white"))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(SCALE, SCALE)
    painter.translate(-left, -top)
    paint_item(painter, item)
    painter.end()
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    grey = np.frombuffer(bytes(bits), dtype=np.uint8).reshape(image.height(), image.bytesPerLine())[:, : image.width()]
    rows, columns = np.nonzero(grey < 235)
    if not rows.size:
        return None
    return (
        left + columns.min() / SCALE, top + rows.min() / SCALE,
        left + (columns.max() + 1) / SCALE, top + (rows.max() + 1) / SCALE,
    )  # fmt: skip


@pytest.mark.slow
@pytest.mark.parametrize("choices", [KINDS[0], KINDS[1]], ids=["tab", "staff"])
def test_each_thing_painted_alone_fills_its_box_and_nothing_outside_it(choices: SheetChoices, qapp: object) -> None:
    """What the layout believes of a thing's size is what the paint leaves; one of each kind and shape is painted."""
    load_fonts()
    seen: dict[object, Item] = {}
    for score in (demo_score(), any_score(3), any_score(12)):
        for page in PageMaker().pages(score, choices):
            for item in page_items(page):
                key = (
                    item.kind,
                    type(item),
                    item.text if isinstance(item, Words) else len(getattr(item, "points", ())),
                )
                seen.setdefault(key, item)
    assert len(seen) > 100
    edge = EDGE_PX / SCALE
    for item in seen.values():
        ink = ink_of(item)
        if ink is None:
            continue
        found = Box(*ink)
        slanted = 0.0 if isinstance(item, Words) else getattr(item, "width", 0.0) + getattr(item, "thickness", 0.0)
        slanted += sum(getattr(item, "dash", ())) * getattr(item, "width", 0.0)  # a dashed line may end in a gap
        assert holds(item.box, found, edge), (item, ink)
        assert holds(found, item.box, edge + slanted), (item, ink)


# --- what a sheet holds ---
def texts(pages: tuple[Page, ...], kind: str) -> list[str]:
    return [item.text for page in pages for item in page_items(page) if isinstance(item, Words) and item.kind == kind]


def phrased() -> Score:
    """Eight bars of four quarters, in phrases of two bars; bars 5 to 8 are bars 1 to 4 two frets up."""
    notes = tuple(
        Note(
            2.0 * bar + 0.5 * at,
            2.0 * bar + 0.5 * at + 0.48,
            2 + (bar % 4) % 3,
            5 + at * (bar % 4 + 1) % 7 + 2 * (bar // 4),
        )
        for bar in range(8)
        for at in range(4)
    )
    phrases = tuple(Phrase(4.0 * at, 4.0 * at + 4.0, f"Line {at + 1}") for at in range(4))
    return Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=phrases, title="Ebb")


def test_a_bar_that_comes_again_is_named_by_the_first_and_by_its_move() -> None:
    pages = PageMaker().pages(phrased(), SheetChoices())
    assert "as bars 1 to 4, two frets up" in texts(pages, "same")


def test_folded_bars_are_printed_once_and_their_phrase_is_still_named() -> None:
    pages = PageMaker().pages(phrased(), SheetChoices(repeats=Repeats.FOLDED))
    assert texts(pages, "folded") == ["bars 5 to 8: as bars 1 to 4, two frets up"]
    assert len(texts(pages, "fret")) == 16
    assert any(words.startswith("Line 3") for words in texts(pages, "phrase"))


def test_a_doubtful_bar_is_never_folded_away() -> None:
    from notcher.core.score import Doubt, DoubtKind

    score = phrased()
    doubted = replace(score.notes[20], doubt=Doubt(DoubtKind.UNSURE, 0.4), certainty=0.4)
    pages = PageMaker().pages(score.with_changed({score.notes[20].id: doubted}), SheetChoices(repeats=Repeats.FOLDED))
    assert texts(pages, "footnote") == ["a"]
    assert any("bar 6" in words and "40% sure" in words for words in texts(pages, "note"))


def test_bars_played_over_and_over_stand_between_repeat_signs() -> None:
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.45, 3, 5 + at % 4) for at in range(16))
    score = Score(notes, beat_map=BeatMap.steady(120, 0.0))
    pages = PageMaker().pages(score, SheetChoices(repeats=Repeats.FOLDED))
    assert texts(pages, "same") == ["4 times"]
    assert len(texts(pages, "fret")) == 4


@pytest.mark.parametrize("by", list(Lines))
def test_no_phrase_is_torn_where_lines_end_by_phrase(by: Lines) -> None:
    """Four phrases of two bars that would fit three bars to a line: by phrase each line ends with one."""
    pages = PageMaker().pages(phrased(), SheetChoices(lines=by, size=Size.LARGE))
    systems = [
        {int(item.group.split()[1]) for item in block.items if item.kind == "fret"}
        for page in pages
        for block in page.blocks
    ]
    torn = [
        phrase
        for phrase in range(4)
        if sum(bool(system & set(range(8 * phrase, 8 * phrase + 8))) for system in systems) > 1
    ]
    assert not torn if by is Lines.PHRASES else True


def test_garnish_can_be_left_out_and_the_sheet_says_so() -> None:
    score = phrased()
    score = score.with_changed({score.notes[at].id: replace(score.notes[at], garnish=True) for at in (3, 9)})
    pages = PageMaker().pages(score, SheetChoices(garnish=False))
    assert len(texts(pages, "fret")) == len(score.notes) - 2
    assert any("2 notes of garnish left out" in words for words in texts(pages, "facts"))


def with_variant(score: Score) -> Score:
    phrase = score.phrases[1]
    inside = [score.notes[at] for at in score.notes_of(phrase)]
    easier = tuple(replace(note, id="", source=note.id, fret=3) for note in inside[::2])
    return replace(score, variants=(Variant(phrase.id, "easier", easier),))


def test_an_easier_variant_stands_instead_or_under_the_phrase() -> None:
    score = with_variant(phrased())
    instead = texts(PageMaker().pages(score, SheetChoices(easier=Easier.INSTEAD, legend=False)), "fret")
    assert len(instead) == len(score.notes) - 4
    under = PageMaker().pages(score, SheetChoices(easier=Easier.UNDER, legend=False))
    assert len(texts(under, "fret")) == len(score.notes) + 4
    assert any(words.startswith("Line 2, easier") for words in texts(under, "phrase"))


@pytest.mark.slow
def test_chords_and_notes_are_called_as_on_the_neck_or_as_they_sound() -> None:
    """Half a step down what is fingered as E minor sounds as E flat minor, and C as B, spelled Cb in six flats."""
    neck = texts(PageMaker().pages(demo_score(), SheetChoices()), "chord")
    sounding = texts(PageMaker().pages(demo_score(), SheetChoices(names=Names.SOUNDING)), "chord")
    assert (neck[0], sounding[0]) == ("Em", "Ebm")
    assert (neck[1], sounding[1]) == ("C", "Cb")


@pytest.mark.slow
def test_a_bend_is_told_in_the_students_words() -> None:
    bent = [
        set(texts(PageMaker().pages(demo_score(), SheetChoices(bends=bends)), "size"))
        for bends in (BendNames.STEPS, BendNames.FRETS, BendNames.SOUNDS)
    ]
    assert "1½" in bent[0]
    assert "3" in bent[1]
    assert "=18" in bent[2]


def test_the_legend_tells_the_marks_that_are_used_and_no_others() -> None:
    legend = " ".join(texts(PageMaker().pages(HARD["sixes"](), SheetChoices()), "legend"))
    assert "hammered" in legend
    assert "pulled" not in legend
    assert "bent" not in legend
    assert not texts(PageMaker().pages(HARD["forty"](), SheetChoices()), "legend")


# --- an edit ---
@pytest.mark.slow
def test_what_was_kept_from_the_last_sheet_changes_nothing() -> None:
    """After an edit the pages are the same as those of somebody who never saw the solo before."""
    maker, score = PageMaker(), any_score(4)
    maker.pages(score)
    edited = score.with_note(score.notes[30].id, fret=3, string=1 + score.notes[30].string % score.tuning.strings)
    again, fresh = maker.pages(edited), PageMaker().pages(edited)
    assert [[item.box for item in page_items(page)] for page in again] == [
        [item.box for item in page_items(page)] for page in fresh
    ]


# --- bad input ---
def test_no_notes_are_told_in_one_sentence() -> None:
    with pytest.raises(NothingToPrintError, match="There are no notes to print"):
        PageMaker().pages(Score())
    with pytest.raises(NothingToPrintError, match="no phrases"):
        PageMaker().pages(HARD["forty"](), SheetChoices(sheet=Sheet.CARDS))


@pytest.mark.slow
def test_three_thousand_notes_in_one_bar_go_over_many_lines() -> None:
    notes = tuple(Note(0.05 * at, 0.05 * at + 0.04, 1 + at % 6, at % 20) for at in range(3_000))
    score = Score(notes, beat_map=BeatMap(((0.0, 0.0), (160.0, 4.0))))
    check(PageMaker().pages(score, SheetChoices(legend=False)), score)


def test_the_longest_title_is_cut_and_not_run_over() -> None:
    score = replace(demo_score(), title="Lantern " * 125)
    pages = PageMaker().pages(score)
    check(pages, score)
    assert texts(pages, "title")[-1].endswith("…")


def test_a_missing_font_is_told(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    from notcher.core.sheets import typeface as module

    module._font.cache_clear()
    module._letter.cache_clear()
    module.extent.cache_clear()
    monkeypatch.setattr(module, "files", lambda _package: tmp_path)
    with pytest.raises(FontMissingError, match="Install Notcher again"):
        PageMaker().pages(demo_score())
    module._font.cache_clear()


def test_laying_out_can_be_stopped() -> None:
    with pytest.raises(Cancelled):
        PageMaker().pages(demo_score(), cancelled=lambda: True)


def test_letters_that_no_font_has_keep_to_the_room_they_were_given() -> None:
    score = replace(demo_score(), title="港の灯 Lantern")
    assert typeface.extent("港", typeface.Typeface.TEXT_BOLD, 10.0).advance == 10.0
    check(PageMaker().pages(score), score)


def test_around_nothing_there_is_an_empty_box() -> None:
    assert bounds([]) == Box(0.0, 0.0, 0.0, 0.0)


def laid(score: Score, width: float = 180.0, **choices: object) -> tuple[Engraver, list[Column]]:
    """A solo before it is broken into lines so many millimetres wide."""
    frame = Frame(width, 297.0, Style(), 0.0)
    engraver = engraver_for(score, SheetChoices(**choices), USUAL, frame)  # type: ignore[arg-type]
    return engraver, columns(engraver, engraver.printed)


def test_the_first_line_of_a_sheet_has_less_room_since_it_has_the_clef() -> None:
    fewer = 0
    score = Score(tuple(Note(0.5 * at, 0.5 * at + 0.4, 2, 5 + at % 3) for at in range(60)), key=Key("Gb", "major"))
    for width in range(120, 211, 6):
        engraver, flow = laid(score, float(width), staff=True)
        first, later = (len(rows_of(engraver, flow, first=opens)[0].indices) for opens in (True, False))
        assert first <= later
        fewer += first < later
    assert fewer


@pytest.mark.parametrize("at_end", [False, True])
def test_a_line_is_drawn_anew_when_a_chord_over_it_is_another(at_end: bool) -> None:
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.45, 2, 5) for at in range(16))
    time_s = 7.6 if at_end else 0.0

    def drawn_with(name: str, lines: DrawnLines) -> object:
        score = Score(notes, beat_map=BeatMap.steady(120, 0.0), chords=(Chord(time_s, name),))
        engraver, flow = laid(score)
        return lines.system(engraver, flow, first=True)

    lines = DrawnLines()
    before = drawn_with("Am", lines)
    assert drawn_with("Am", lines) is before
    assert drawn_with("C7", lines) is not before


def test_what_is_too_much_for_a_line_is_pressed_together_inside_it() -> None:
    notes = tuple(Note(at / 16, at / 16 + 0.05, 2, 12) for at in range(64))
    engraver, flow = laid(Score(notes, beat_map=BeatMap.steady(60, 0.0)), 60.0)
    xs, end = _places(engraver, flow, 10.0)
    assert end == pytest.approx(60.0)
    assert xs == sorted(xs)
    assert xs[0] >= 10.0


@pytest.mark.parametrize("kind", ["bar", "final", "begin", "end"])
def test_every_bar_line_has_the_room_it_takes(kind: str) -> None:
    engraver, _ = laid(demo_score())
    left, right = _line_room(engraver, kind)
    box = bounds(_bar_line(engraver, kind, 50.0, 0.0, engraver.tab_height, engraver.style.tab))
    assert 50.0 - left - 1e-6 <= box.left
    assert box.right <= 50.0 + right + 1e-6
