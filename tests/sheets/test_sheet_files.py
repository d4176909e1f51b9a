"""Sheets as files: the PDF by poppler, the SVG by its grammar, the PNG by its size; choices; what cannot be written."""

import json
import re
import subprocess
from pathlib import Path

import pytest
from lxml import etree
from PIL import Image

from notcher.cli import main
from notcher.core.formats import Document, FileError, write_document
from notcher.core.ledger import Student
from notcher.core.score import Score
from notcher.core.sheets import (
    CHOICES,
    ChoiceError,
    Page,
    PageMaker,
    Paper,
    Sheet,
    SheetChoices,
    Size,
    Typeface,
    Words,
    choices_from,
    kept_choices,
    page_items,
    told_choices,
)
from notcher.core.words import BendNames
from notcher.demo.solo import demo_score
from notcher.painting.sheet_picture import pdf_bytes, write_sheet

SVG_GRAMMAR = Path("/usr/share/xml/w3c-sgml-lib/schema/dtd/REC-SVG11-20110816/svg11.dtd")
"""W3C, "Scalable Vector Graphics (SVG) 1.1", 2nd ed. 2011: its DTD as Debian's w3c-sgml-lib ships it."""
POINTS_PER_MM = 72 / 25.4


@pytest.fixture(scope="module")
def pages(qapp_here: object) -> tuple[Page, ...]:
    return PageMaker().pages(demo_score(), SheetChoices(staff=True))


@pytest.fixture(scope="module")
def qapp_here(qapp: object) -> object:
    return qapp


@pytest.fixture
def solo(tmp_path: Path) -> Path:
    path = tmp_path / "solo.notch"
    write_document(Document(demo_score()), path)
    return path


def run(*words: str | Path) -> str:
    return subprocess.run([str(word) for word in words], check=True, capture_output=True, text=True).stdout


# --- PDF ---
def test_the_fonts_are_in_the_pdf(pages: tuple[Page, ...], tmp_path: Path) -> None:
    """poppler's pdffonts: every font is embedded and its text can be read back (columns emb, sub, uni)."""
    path = tmp_path / "solo.pdf"
    path.write_bytes(pdf_bytes(pages))
    rows = run("pdffonts", path).splitlines()[2:]
    assert {row.split()[0].split("+")[-1] for row in rows} >= {"Bravura", "Inter-Bold", "Lato-Bold"}
    assert all(re.search(r"\byes\b.*\bno\b.*\byes\b|\byes\b.*\byes\b.*\byes\b", row) for row in rows)


@pytest.mark.outside(
    what="words of the PDF lie where the page says",
    source="poppler: pdftotext -bbox",
    tolerance="0.6 pt",
    why="its boxes are those of the font's line",
    kind="library",
)
def test_the_pdfs_words_lie_where_the_page_says(pages: tuple[Page, ...], tmp_path: Path) -> None:
    """poppler's pdftotext -bbox: each fret, size and chord of the page is a word whose middle lies in its box."""
    path = tmp_path / "solo.pdf"
    path.write_bytes(pdf_bytes(pages))
    tree = etree.fromstring(run("pdftotext", "-bbox", path, "-").encode())
    name = {"x": "http://www.w3.org/1999/xhtml"}
    told = tree.findall(".//x:page", name)
    assert len(told) == len(pages)
    for page, shown in zip(pages, told, strict=True):
        assert float(shown.get("width")) == pytest.approx(page.width * POINTS_PER_MM, abs=0.6)
        words = [
            (word.text, *(float(word.get(edge)) / POINTS_PER_MM for edge in ("xMin", "yMin", "xMax", "yMax")))
            for word in shown.findall("x:word", name)
        ]
        for item in page_items(page):
            if not isinstance(item, Words) or item.kind not in ("fret", "chord") or item.text == "×":
                continue
            x, y = (item.box.left + item.box.right) / 2, (item.box.top + item.box.bottom) / 2
            over = [text for text, left, top, right, bottom in words if left <= x <= right and top <= y <= bottom]
            assert any(item.text in text for text in over), (item.text, over)


@pytest.mark.outside(
    what="sizes of paper",
    source="ISO 216:2007; ANSI/ASME Y14.1",
    tolerance="1e-6",
    why="millimetres by definition of the inch",
    kind="standard",
)
def test_the_paper_is_as_large_as_its_standard_says() -> None:
    """ISO 216:2007: A4 is 210 × 297 mm; ANSI/ASME Y14.1: Letter is 8½ × 11 inches."""
    assert SheetChoices().page_mm == (210.0, 297.0)
    assert SheetChoices(paper=Paper.LETTER).page_mm == pytest.approx((8.5 * 25.4, 11 * 25.4))
    assert SheetChoices(landscape=True).page_mm == (297.0, 210.0)


# --- SVG and PNG ---
@pytest.mark.outside(
    what="the SVG of a sheet is valid",
    source="W3C, SVG 1.1, 2nd ed. 2011: its DTD as w3c-sgml-lib ships it; lxml",
    tolerance="valid",
    why="the validator's verdict",
    kind="standard",
)
def test_the_svg_keeps_to_its_grammar(pages: tuple[Page, ...], tmp_path: Path) -> None:
    written = write_sheet(pages, tmp_path / "solo.svg", "Solo")
    assert [path.name for path in written] == [f"solo-{at}.svg" for at in range(1, len(pages) + 1)]
    grammar = etree.DTD(str(SVG_GRAMMAR))
    for path in written:
        tree = etree.parse(path)
        assert grammar.validate(tree), grammar.error_log.filter_from_errors()[:3]
        assert not tree.findall(".//{http://www.w3.org/2000/svg}text")  # letters are shapes: no font is needed


def test_a_png_is_as_large_as_its_paper(tmp_path: Path, qapp: object) -> None:
    (page,) = PageMaker().pages(demo_score(), SheetChoices(sheet=Sheet.SHAPES))
    (path,) = write_sheet((page,), tmp_path / "shapes.png")
    with Image.open(path) as image:
        assert image.size == (round(210 / 25.4 * 150), round(297 / 25.4 * 150))
        dark = sum(image.convert("L").histogram()[:100])
    assert dark > 5_000


def test_a_sheet_for_nothing_else_is_refused(pages: tuple[Page, ...], tmp_path: Path) -> None:
    with pytest.raises(ValueError, match=r"no '\.doc' file"):
        write_sheet(pages, tmp_path / "solo.doc")


def test_what_cannot_be_written_leaves_nothing_behind(
    pages: tuple[Page, ...], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A full disk, as the system tells it (ENOSPC), and a folder that is not there."""
    import errno
    import os

    def full(_descriptor: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    old = tmp_path / "solo.pdf"
    old.write_bytes(b"the one before")
    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileError, match="No space left"):
        write_sheet(pages, old)
    assert old.read_bytes() == b"the one before"
    assert [path.name for path in tmp_path.iterdir()] == ["solo.pdf"]
    with pytest.raises(FileError, match="No such file"):
        write_sheet(pages, tmp_path / "nowhere" / "solo.pdf")


# --- the command ---
@pytest.mark.slow
def test_export_writes_pages_without_a_display(
    solo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], qapp: object
) -> None:
    assert main(["export", str(solo), str(tmp_path / "out.pdf"), "--sheet", "size=large", "--sheet", "staff=yes"]) == 0
    assert capsys.readouterr().out.splitlines() == [str(tmp_path / "out.pdf")]
    assert "Lantern Watch" in run("pdftotext", tmp_path / "out.pdf", "-")
    assert main(["export", str(solo), str(tmp_path / "card.png"), "--sheet", "sheet=cards"]) == 0
    assert (tmp_path / "card-2.png").exists()


@pytest.mark.slow
def test_a_display_is_not_needed(solo: Path, tmp_path: Path) -> None:
    """In a process of its own, with no display and no platform named."""
    import os
    import sys

    bare = {name: value for name, value in os.environ.items() if name not in ("DISPLAY", "WAYLAND_DISPLAY")}
    bare.pop("QT_QPA_PLATFORM", None)
    command = [sys.executable, "-m", "notcher", "export", str(solo), str(tmp_path / "bare.pdf")]
    done = subprocess.run(command, env=bare, capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (0, "")
    assert (tmp_path / "bare.pdf").read_bytes().startswith(b"%PDF-")


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (["x.pdf", "--sheet", "size=huge"], "'huge' is no choice for size. There are small, normal, large."),
        (["x.pdf", "--sheet", "colour=red"], "Sheets have no choice 'colour'."),
        (["x.pdf", "--sheet", "large"], "'large' is no choice. Write it as --sheet size=large."),
        (["x.pdf", "--student", "Nobody at all"], "There is no ledger yet."),
        (["x.docx"], "Notcher cannot write '.docx'. Use one of .txt, .musicxml, .mid, .jams, .csv, .pdf, .svg, .png."),
        (["nowhere/x.pdf"], "There is no folder for 'x.pdf'."),
    ],
)
def test_wrong_words_are_told_in_one_sentence(
    solo: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], words: list[str],
    sentence: str,
) -> None:  # fmt: skip
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.chdir(tmp_path)
    assert main(["export", str(solo), *words]) == 2
    told = capsys.readouterr().err
    assert sentence in told
    assert told.count("\n") == 1
    assert not list(tmp_path.glob("x.*"))


def test_a_document_without_notes_gives_no_sheet(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], qapp: object
) -> None:
    write_document(Document(Score()), tmp_path / "empty.notch")
    assert main(["export", str(tmp_path / "empty.notch"), str(tmp_path / "empty.pdf")]) == 2
    assert "There are no notes to print." in capsys.readouterr().err


# --- choices ---
def test_every_choice_is_in_the_table_and_can_be_kept_and_read() -> None:
    assert {choice.name for choice in CHOICES} == set(told_choices(SheetChoices()))
    mine = SheetChoices(size=Size.LARGE, staff=True, bends=BendNames.SOUNDS, counts=False)
    assert kept_choices(json.dumps(told_choices(mine))) == mine
    assert choices_from({"size": "Large", "staff": "yes", "bends": "sounds", "counts": "off"}) == mine


@pytest.mark.parametrize("kept", ["", "{", "[]", '{"size": "huge"}', '{"gone": 1}', "null"])
def test_choices_that_nobody_can_read_are_the_usual_ones(kept: str) -> None:
    assert kept_choices(kept) == SheetChoices()


def test_a_choice_that_there_is_not_is_told() -> None:
    with pytest.raises(ChoiceError, match="Say yes or no"):
        choices_from({"staff": "perhaps"})
    assert Student("Ada").sheets == ""
    assert Typeface.MUSIC.value == "Bravura.otf"
