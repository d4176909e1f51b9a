"""No meaning by colour alone: what a mark says is still seen by those who see colours otherwise, or none.

Colours as they are seen: G. M. Machado, M. M. Oliveira, L. A. F. Fernandes, "A Physiologically-based Model for
Simulation of Color Vision Deficiency", IEEE TVCG 15 (2009), table 1, severity 1.0, on linear RGB (the figures from
memory; each row adds up to 1, which is checked); for no colours at all the relative luminance of WCAG 2.1.
"""

import numpy as np
import pytest
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot
from test_seen import luminance, pixels

from hands import at_rest, press
from notcher.core.arrays import FloatArray
from notcher.core.formats import Document
from notcher.core.score import Score
from notcher.painting.theme import THEMES
from notcher.ui.shell.program import Program

SEEN_AS = {
    "red-blind": ((0.152286, 1.052583, -0.204868), (0.114503, 0.786281, 0.099216), (-0.003882, -0.048116, 1.051998)),
    "green-blind": ((0.367322, 0.860646, -0.227968), (0.280085, 0.672501, 0.047413), (-0.011820, 0.042940, 0.968881)),
    "blue-blind": ((1.255528, -0.076749, -0.178779), (-0.078411, 0.930809, 0.147602), (0.004733, 0.691367, 0.303900)),
    "no colours": ((0.2126, 0.7152, 0.0722),) * 3,
}
LEAST_PIXELS, LEAST_CONTRAST = 12, 1.5
"""A mark is so many pixels that stand out so much, lightness alone, from what would be there without it."""
MARKS = {
    "doubt": "Shift+D", "garnish": "O", "slip": "P", "palm mute": "Z", "dead": "X", "natural harmonic": "C",
    "squeal": "V", "hammered": "W", "slid into": "R", "tapped": "T", "struck again": "Y", "choked": "Shift+C",
    "slides away": "Shift+V", "vibrato": "G", "bent": "S", "curl": "H", "raked": "M",
}  # fmt: skip
"""What is said of a note by a mark over the tab, and its keys."""


def seen_as(rgb: FloatArray, kind: str) -> FloatArray:
    """Colours, 0 to 255, as they are seen; shape (n, 3)."""
    part = rgb / 255
    linear = np.where(part <= 0.04045, part / 12.92, ((part + 0.055) / 1.055) ** 2.4)
    seen = np.clip(linear @ np.array(SEEN_AS[kind]).T, 0, 1)
    return 255 * np.where(seen <= 0.0031308, 12.92 * seen, 1.055 * seen ** (1 / 2.4) - 0.055)


def picture(widget: QWidget) -> FloatArray:
    """A view once nothing in it moves by itself any more."""
    return pixels(at_rest(widget), widget.rect())


def stands_out(before: FloatArray, after: FloatArray, kind: str) -> bool:
    """Whether two pictures differ in lightness, as they are seen."""
    other = (before != after).any(axis=1)  # a pixel that stays as it is stands out from nothing
    before, after = before[other], after[other]
    a, b = (luminance(seen_as(rgb, kind)) + 0.05 for rgb in (before, after))
    return int((np.maximum(a, b) / np.minimum(a, b) >= LEAST_CONTRAST).sum()) >= LEAST_PIXELS


@pytest.mark.parametrize("kind", SEEN_AS)
def test_white_stays_white(kind: str) -> None:
    assert seen_as(np.array([[255.0] * 3, [0.0] * 3]), kind) == pytest.approx(
        np.array([[255.0] * 3, [0.0] * 3]), abs=0.1
    )


def test_red_and_green_of_one_lightness_are_not_told_apart_by_this_measure() -> None:
    """A test that would pass with colour alone would prove nothing."""
    red, green = np.array([[200.0, 60, 60]] * 50), np.array([[60.0, 119, 60]] * 50)
    assert abs(luminance(red)[0] - luminance(green)[0]) < 0.02
    assert not stands_out(red, green, "no colours")


@pytest.fixture(params=THEMES)
def written(request: pytest.FixtureRequest, program: Program, qtbot: QtBot, lick: Score) -> Program:
    program.settings.set("theme", request.param)
    program.apply_settings()
    program.open(Document(lick), None)
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    return program


@pytest.mark.outside(
    what="marks seen with three kinds of colour blindness",
    source="G. Machado et al., IEEE TVCG 15, 2009, table 1",
    tolerance="12 pixels of 1.5 to 1",
    why="ours",
    kind="memory",
)
@pytest.mark.slow
def test_each_mark_over_the_tab_is_seen_without_colours(written: Program) -> None:
    tab = written.notch.tab
    press("Right")
    bare = picture(tab)
    missed = []
    for name, keys in MARKS.items():
        press(keys)
        marked = picture(tab)
        missed += [f"{name}, {kind}" for kind in SEEN_AS if not stands_out(bare, marked, kind)]
        press("Ctrl+Z")
    assert missed == []


@pytest.mark.slow
def test_marks_on_the_rung_board_are_told_apart_without_colours(written: Program) -> None:
    press("Ctrl+5")
    board = written.teach.board
    pictures = {}
    for keys in ("C", "S", "M"):
        press(keys)
        pictures[keys] = picture(board)
        press("Backspace")
    for first, second in (("C", "S"), ("S", "M"), ("C", "M")):
        for kind in SEEN_AS:
            assert stands_out(pictures[first], pictures[second], kind), f"{first} beside {second}, {kind}"
