"""What laying out a sheet takes: `./dev bench sheets`, writes docs/benchmarks/sheets.md.

Solos of 50, 300 and 3,000 notes by the second composer: laid out by somebody who never saw them, and again after one
bar was edited; painted to PDF and PNG. Beside them stands what a million turns of an empty loop take here.
"""

import os
import statistics
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication

from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.core.sheets import PageMaker, Sheet, SheetChoices, Size, page_items
from notcher.painting.sheet_picture import pdf_bytes, png_bytes
from second_composer import second_case

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks" / "sheets.md"
TEMPO_BPM, BARS_A_PHRASE = 100.0, 12
ASKED_MS = {"300 notes": 300, "3,000 notes": 3_000, "one bar changed": 50}


def long_solo(count: int) -> Score:
    """So many notes of solos one after another, against one beat, in phrases of twelve notes."""
    notes: list[Note] = []
    seed, begin_s = 1, 0.0
    while len(notes) < count:
        part = second_case(seed, length_s=40.0).score
        notes += [
            replace(note, onset_s=note.onset_s + begin_s, offset_s=note.offset_s + begin_s, id="")
            for note in part.notes
        ]
        seed, begin_s = seed + 1, max(note.offset_s for note in notes) + 0.5
    notes = sorted(notes, key=lambda note: (note.onset_s, note.string))[:count]
    firsts = list(range(0, count, BARS_A_PHRASE))
    ends_s = [*(notes[at].onset_s for at in firsts[1:]), max(note.offset_s for note in notes) + 0.1]
    phrases = tuple(
        Phrase(notes[at].onset_s, end_s, f"Phrase {number}")
        for number, (at, end_s) in enumerate(zip(firsts, ends_s, strict=True), 1)
    )
    return Score(tuple(notes), tuning=part.tuning, beat_map=BeatMap.steady(TEMPO_BPM, 0.5), phrases=phrases)


def milliseconds(work: Callable[[], object], *, times: int = 5) -> float:
    """The middle one of several runs."""
    took = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        took.append(1000 * (time.perf_counter() - begin))
    return statistics.median(took)


def edited(score: Score, turn: int, *, moved: bool) -> Score:
    """The solo with one note in the middle on another fret, or struck 20 ms later as well."""
    at = len(score.notes) // 2 + turn
    note = score.notes[at]
    by_s = 0.02 if moved and note.duration_s > 0.04 else 0.0
    return score.with_note(score.notes[at].id, fret=(note.fret + 1) % 20, onset_s=note.onset_s + by_s)


def after_an_edit(score: Score, *, moved: bool) -> float:
    maker = PageMaker()
    maker.pages(score)
    took = []
    for turn in range(12):
        other = edited(score, turn, moved=moved)
        begin = time.perf_counter()
        maker.pages(other)
        took.append(1000 * (time.perf_counter() - begin))
        maker.pages(score)
    return statistics.median(took)


def main() -> None:
    app = QApplication.instance() or QApplication(["sheets"])
    loop = milliseconds(lambda: [None for _ in range(1_000_000)])
    PageMaker().pages(long_solo(50), SheetChoices(staff=True))  # fonts and modules are there
    solos = {"50 notes": long_solo(50), "300 notes": long_solo(300), "3,000 notes": long_solo(3_000)}
    rows = []
    for name, score in solos.items():
        took = milliseconds(lambda score=score: PageMaker().pages(score), times=3)  # type: ignore[misc]
        pages = PageMaker().pages(score)
        count = sum(len(page_items(page)) for page in pages)
        rows.append((f"{name}: {len(pages)} pages, {count} things", took, ASKED_MS.get(name)))
    score = solos["300 notes"]
    rows += [
        ("300 notes, one bar changed: another fret", after_an_edit(score, moved=False), ASKED_MS["one bar changed"]),
        ("300 notes, one bar changed: a note struck later", after_an_edit(score, moved=True),
         ASKED_MS["one bar changed"]),
        ("300 notes with a staff", milliseconds(lambda: PageMaker().pages(score, SheetChoices(staff=True))), None),
        ("300 notes in large print", milliseconds(lambda: PageMaker().pages(score, SheetChoices(size=Size.LARGE))),
         None),
        ("300 notes as cards", milliseconds(lambda: PageMaker().pages(score, SheetChoices(sheet=Sheet.CARDS))), None),
    ]  # fmt: skip
    pages = PageMaker().pages(score)
    rows += [
        ("300 notes painted as PDF", milliseconds(lambda: pdf_bytes(pages), times=3), None),
        ("one page painted at 150 dpi", milliseconds(lambda: png_bytes(pages[0]), times=3), None),
    ]
    lines = [
        "# Laying out sheets",
        "",
        "`./dev bench sheets`. Milliseconds, the middle of several runs, on solos by our second composer; beside them",
        f"in turns of a million empty loops in Python, one of which took {loop:.0f} ms in the same run.",
        "",
        "| what | ms | loops | asked, ms |",
        "| --- | ---: | ---: | ---: |",
        *(f"| {name} | {took:.0f} | {took / loop:.1f} | {asked or ''} |" for name, took, asked in rows),
        "",
        "After an edit the rhythm is read anew and every line is looked up by what stands on it; only lines with",
        "something new are drawn.",
    ]
    PAGE.write_text("\n".join(lines) + "\n", encoding="utf-8")
    print("\n".join(lines))
    del app


if __name__ == "__main__":
    main()
