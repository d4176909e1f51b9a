"""What is written can be read: contrast as WCAG 2.1 defines it (W3C 2018, 1.4.3 and "relative luminance"), measured on
pictures of the benches in both looks. Inactive controls are excepted there."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QRect
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLabel, QWidget
from pytestqt.qtbot import QtBot

from hands import at_rest, press, settled
from notcher.core.arrays import FloatArray
from notcher.core.formats import Document
from notcher.painting.theme import THEMES, Theme
from notcher.ui.shell.program import Program

LEAST = 4.5
GROUNDS = ("ground", "panel", "lane")
INKS = ("ink", "soft_ink", "accent", "measured", "doubt", "good")


def luminance(rgb: FloatArray) -> FloatArray:
    """Relative luminance of colours from 0 to 255, shape (n, 3)."""
    part = rgb / 255
    linear = np.where(part <= 0.04045, part / 12.92, ((part + 0.055) / 1.055) ** 2.4)
    return linear @ np.array([0.2126, 0.7152, 0.0722])


def contrast(first: FloatArray, second: FloatArray) -> FloatArray:
    a, b = luminance(first), luminance(second)
    return (np.maximum(a, b) + 0.05) / (np.minimum(a, b) + 0.05)


@pytest.mark.outside(
    what="contrast of black on white",
    source="WCAG 2.1, relative luminance and contrast ratio (W3C 2018)",
    tolerance="1e-6",
    why="floating point",
    kind="standard",
)
def test_the_formula_gives_the_published_values() -> None:
    black, white, grey = (np.array([[value] * 3], dtype=float) for value in (0, 255, 118))
    assert contrast(black, white)[0] == pytest.approx(21.0)  # the most there is, as WCAG says
    assert 4.5 < contrast(grey, white)[0] < 4.6  # #767676 on white, the lightest grey that passes (common practice)


@pytest.mark.outside(
    what="every ink on its ground can be read",
    source="WCAG 2.1, 1.4.3",
    tolerance="4.5 and 3 to 1",
    why="the bounds of level AA",
    kind="standard",
)
@pytest.mark.parametrize("theme", THEMES.values(), ids=lambda theme: theme.name)
def test_every_ink_on_every_ground(theme: Theme) -> None:
    def of(role: str) -> FloatArray:
        color = theme.color(role)
        return np.array([[color.red(), color.green(), color.blue()]], dtype=float)

    pairs = [(ink, ground) for ink in INKS for ground in GROUNDS] + [("on_accent", "accent")]
    assert not [pair for pair in pairs if contrast(of(pair[0]), of(pair[1]))[0] < LEAST]


def pixels(image: QImage, part: QRect) -> FloatArray:
    """Colours of a part of a picture, shape (n, 3)."""
    cut = image.copy(part).convertToFormat(QImage.Format.Format_RGB888)
    bits = cut.constBits()
    assert bits is not None
    rows = np.frombuffer(bits.asstring(cut.sizeInBytes()), dtype=np.uint8).reshape(cut.height(), cut.bytesPerLine())
    return rows[:, : 3 * cut.width()].reshape(-1, 3).astype(float)


def faint(window: QWidget) -> list[str]:
    """Words in the window whose strongest pixel stands out too little from what is most around it."""
    image = window.grab().toImage()
    found = []
    for widget in window.findChildren(QWidget):
        words = widget.text() if isinstance(widget, QLabel | QAbstractButton) else ""
        words = widget.currentText() if isinstance(widget, QComboBox) else words
        here = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size()) & window.rect()
        seen = widget.visibleRegion().boundingRect()
        if not words or not widget.isVisible() or not widget.isEnabled() or seen.height() < 8 or seen.width() < 8:
            continue
        inside = pixels(image, here.adjusted(3, 3, -3, -3))  # without the border
        colors, counts = np.unique(inside, axis=0, return_counts=True)
        ground = colors[counts.argmax()][None]
        if contrast(colors, ground).max() < LEAST:
            found.append(f"{type(widget).__name__} “{words[:40]}”")
    return found


@pytest.mark.slow
@pytest.mark.parametrize("theme", THEMES)
def test_words_on_every_bench(program: Program, demo: Document, qtbot: QtBot, theme: str) -> None:
    program.settings.set("theme", theme)
    program.apply_settings()
    program.open(demo, None)
    settled(program)
    for number in range(1, 8):
        press(f"Ctrl+{number}")
        at_rest(program.window)
        assert faint(program.window) == [], program.bench
