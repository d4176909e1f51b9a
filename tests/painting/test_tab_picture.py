"""The tab is painted without a window: by a program that has no widgets at all."""

import re
import subprocess
import sys
import textwrap
from pathlib import Path

import pytest
from PyQt6.QtCore import QBuffer
from PyQt6.QtGui import QPainter
from PyQt6.QtSvg import QSvgGenerator

from notcher.core.score import BeatMap, Note, Score
from notcher.painting.tab_frame import TabFrame
from notcher.painting.tab_picture import TabContent, draw_header
from notcher.painting.theme import PAPER, load_fonts

SCRIPT = """
    import os, sys
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtGui import QGuiApplication, QImage, QPainter
    from notcher.core.score import BeatMap, Note, Phrase, Score, bent_curve
    from notcher.core.words import BendNames, Naming
    from notcher.painting.tab_frame import TabFrame
    from notcher.painting.tab_picture import TabContent, draw_tab
    from notcher.painting.theme import PAPER, load_fonts

    app = QGuiApplication([])
    load_fonts()
    score = Score((Note(0.5, 1.4, 3, 14, curve=bent_curve(2, 0.9)),), beat_map=BeatMap.steady(100, 0.0),
                  phrases=(Phrase(0.5, 1.4, "Ask"),))
    pictures = []
    for naming in (Naming(), Naming(bends=BendNames.FRETS)):
        image = QImage(900, 420, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        draw_tab(painter, TabFrame(900, 420), TabContent(score, naming=naming), PAPER)
        painter.end()
        pictures.append(image)
    colours = {pictures[0].pixel(x, y) for x in range(0, 900, 3) for y in range(0, 420, 3)}
    assert len(colours) > 8, "something is drawn"
    assert pictures[0] != pictures[1], "a bend in frets is another figure"
    assert not [name for name in sys.modules if name.startswith(("PyQt6.QtWidgets", "notcher.ui"))]
    print("painted")
"""


@pytest.mark.slow
def test_the_tab_is_painted_without_widgets(tmp_path: Path) -> None:
    script = textwrap.dedent(SCRIPT)
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=60, check=False)
    assert done.stdout == "painted\n", done.stderr


@pytest.mark.usefixtures("qapp")
def test_what_lies_before_bar_1_is_counted_without_a_number() -> None:
    """The ruler's words, read from the SVG that the toolkit makes of it; counting begins with the first whole bar
    (common practice, no source)."""
    load_fonts()
    score = Score((Note(1.0, 1.4, 2, 5), Note(2.0, 2.4, 2, 7)), beat_map=BeatMap.steady(120, 2.0))
    written = QBuffer()
    picture = QSvgGenerator()
    picture.setOutputDevice(written)
    painter = QPainter(picture)
    draw_header(painter, TabFrame(1000, 400), TabContent(score), PAPER)
    painter.end()
    words = [text.strip() for text in re.findall(r">([^<>]*)</text>", bytes(written.data()).decode("utf-8"))]
    assert words[:9] == ["1", "2", "3", "4", "bar 1 · 4/4", "2", "3", "4", "bar 2"]
