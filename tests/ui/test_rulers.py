"""The drawings of the Prove bench and the takes show the numbers they are given."""

import numpy as np
import pytest
from PyQt6.QtGui import QColor, QImage
from pytestqt.qtbot import QtBot

from notcher.core.hearing import Evidence
from notcher.core.proving import Finding, Status
from notcher.core.score import Note, bent_curve
from notcher.painting.theme import PAPER, STAGE, Theme, load_fonts
from notcher.ui.benches.prove.curve_ruler import AROUND_S, CurveRuler
from notcher.ui.benches.teach.landing_view import LandingView


def rows_like(image: QImage, column: int, color: str, *, within: int = 40) -> list[int]:
    """The rows of a column whose colour is near one."""
    wanted = QColor(color)
    found = []
    for row in range(image.height()):
        seen = image.pixelColor(column, row)
        apart = max(
            abs(seen.red() - wanted.red()), abs(seen.green() - wanted.green()), abs(seen.blue() - wanted.blue())
        )
        if apart <= within:
            found.append(row)
    return found


@pytest.mark.parametrize("theme", [PAPER, STAGE], ids=lambda theme: theme.name)
@pytest.mark.parametrize("above", [-0.68, 0.5, 1.0])
def test_the_ruler_puts_the_evidence_where_it_was(qtbot: QtBot, theme: Theme, above: float) -> None:
    """Two fret lines are a semitone apart; the thin line's distance from the claim is measured with them."""
    load_fonts()
    ruler = CurveRuler()
    qtbot.addWidget(ruler)
    ruler.resize(500, 400)
    ruler.show_theme(theme, 1.0)
    note = Note(1.0, 2.0, 3, 12, curve=bent_curve(2, 1.0))
    times_s = np.arange(-0.1, 1.1, 0.006)
    ruler.show_note(note, None, Evidence(times_s, note.curve.at(np.maximum(times_s, 0)) + above))
    image = ruler.grab().toImage()
    ratio = image.devicePixelRatio()
    column = round(0.5 * image.width())
    measured = rows_like(image, column, theme.measured, within=90)
    assert measured, "the evidence is drawn"
    low, high = ruler._span(note)
    height = (ruler.height() - 34) * ratio

    def row(semitones: float) -> float:
        return 8 * ratio + height * (1 - (semitones - low) / (high - low))

    assert np.mean(measured) == pytest.approx(row(2 + above), abs=3 * ratio)
    assert low < min(0.0, 2 + above)
    assert high > max(2.0, 2 + above)


@pytest.mark.slow
def test_the_gap_is_bracketed_with_its_cents_and_small_ones_are_not(qtbot: QtBot) -> None:
    load_fonts()
    ruler = CurveRuler()
    qtbot.addWidget(ruler)
    ruler.resize(500, 400)
    note = Note(1.0, 2.0, 3, 12, curve=bent_curve(2, 1.0))
    times_s = np.arange(0, 1, 0.006)

    def bracket(measured_cents: float) -> list[int]:
        """Columns in which something as high as the gap is drawn in the bracket's colour."""
        finding = Finding(0, Status.BEND, 200.0, measured_cents, 0.0, 0.5)
        ruler.show_note(note, finding, Evidence(times_s, note.curve.at(times_s) * measured_cents / 200))
        image = ruler.grab().toImage()
        return [column for column in range(image.width()) if len(rows_like(image, column, PAPER.doubt)) > 40]

    held = bracket(132.0)
    assert held
    share = (np.mean(held) / ruler.grab().toImage().width() * 500 - 74) / 370
    at_s = share * (1.0 + 2 * AROUND_S) - AROUND_S
    assert 0.15 < at_s < 1.0, "it stands where both rest, not where the string is still pushed"
    assert not bracket(195.0)
    ruler.show_note(None, None, None)
    assert not ruler.grab().isNull()


@pytest.mark.slow
def test_bends_land_left_of_the_middle_when_flat(qtbot: QtBot) -> None:
    load_fonts()
    view = LandingView()
    qtbot.addWidget(view)
    view.resize(400, 240)

    def middle_of(cents: tuple[float, ...]) -> float:
        view.show_landings({2.0: cents})
        image = view.grab().toImage()
        columns = [c for c in range(image.width()) if rows_like(image, c, PAPER.measured)]
        assert columns
        return float(np.mean(columns)) / image.width()

    flat, true, sharp = (middle_of(cents) for cents in ((-60.0, -61.0), (0.0, 2.0), (60.0,)))
    assert flat < true < sharp
    assert true - flat == pytest.approx(sharp - true, abs=0.02)
    assert middle_of((-400.0,)) == pytest.approx(true - 1.5 * (true - flat), abs=0.02), "far ones stand at the edge"
    view.show_landings({})
    assert not view.grab().isNull()
