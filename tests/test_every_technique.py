"""A technique is known in every place; each that is missing is named, so that a new one finds its way.

CONTRIBUTING, "A new technique", goes by what this says.
"""

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication

from notcher.core.formats import Document, musicxml_text, read_document, text_tab, write_document
from notcher.core.formats.musicxml.reading import read_musicxml
from notcher.core.score import Attack, BeatMap, End, Note, Score, Tone, bent_curve, techniques
from notcher.core.sheets.legend import TELLS
from notcher.core.synthesis import render
from notcher.core.words.spoken import note_said
from notcher.core.words.techniques import ATTACKS, ENDS, TONES
from notcher.painting.tab_frame import TabFrame
from notcher.painting.tab_picture import TabContent, draw_tab
from notcher.painting.theme import PAPER, load_fonts
from notcher.ui.shell.legend import SAMPLES
from notcher.ui.shell.program import Program

PLAIN = Note(1.0, 1.8, 2, 12)
KINDS = {"attack": Attack, "tone": Tone, "end": End}
ALL = [(field, kind) for field, kinds in KINDS.items() for kind in kinds if getattr(PLAIN, field) is not kind]
SAYS_NOTHING = {End.RUNS_ON, End.STOPS, End.RINGS}
"""Ends that need no word where a note is said, and no sign that differs from the usual one."""
SOUNDS_ALIKE = {Attack.PULL, Attack.TAP, Attack.REPICK, Attack.SLIDE, End.RINGS, End.RUNS_ON}
"""What the string model plays as it plays another, or what only the note before or after tells."""
COME_BACK_OTHERWISE = {End.RUNS_ON, Attack.REPICK, Attack.SLIDE, Attack.HAMMER, Attack.PULL}
"""What MusicXML can say only between two notes."""

ids = [str(kind) for _field, kind in ALL]
every = pytest.mark.parametrize(("field", "kind"), ALL, ids=ids)


def marked(field: str, kind: object) -> Score:
    """Two notes; the second has the technique."""
    note = replace(PLAIN, **{field: kind})  # type: ignore[arg-type]
    if kind is Attack.REPICK:
        note = replace(note, curve=bent_curve(2, 0.8, prebent=True))
    return Score((Note(0.5, 1.0, 2, 10), note), beat_map=BeatMap.steady(120, 0.5))


def plain(score: Score, field: str) -> Score:
    return score.with_note(score.notes[1].id, **{field: getattr(PLAIN, field)})


@every
def test_it_has_words(field: str, kind: object) -> None:
    """core/words/techniques.py, core/words/spoken.py"""
    assert kind in {"attack": ATTACKS, "tone": TONES, "end": ENDS}[field]
    if kind not in SAYS_NOTHING:
        score = marked(field, kind)
        assert note_said(score.notes[1]) != note_said(plain(score, field).notes[1])


@every
def test_it_is_kept(field: str, kind: object, tmp_path: Path) -> None:
    """core/formats/schemas/score.schema.json; a value that older versions do not know is one for upgrades.py"""
    score = marked(field, kind)
    write_document(Document(score), tmp_path / "a.notch")
    assert read_document(tmp_path / "a.notch").score == score


@every
def test_it_is_written_and_read_in_musicxml(field: str, kind: object) -> None:
    """core/formats/musicxml.py, musicxml_part.py, musicxml_kinds.py"""
    if kind not in COME_BACK_OTHERWISE:
        back = read_musicxml(musicxml_text(marked(field, kind)).encode("utf-8")).score
        assert getattr(back.notes[1], field) is kind


@every
def test_it_has_a_name_for_scripts_and_in_text_tab(field: str, kind: object) -> None:
    """core/score/context.py, core/formats/events.py and its schema, core/formats/texttab.py"""
    score = marked(field, kind)
    if kind not in SAYS_NOTHING:
        told, without = techniques(score, 1), techniques(plain(score, field), 1)
        if kind is not Attack.REPICK:  # its name is the bend's
            assert set(told) - set(without)
        assert text_tab(score) != text_tab(plain(score, field))


@every
def test_it_is_drawn(field: str, kind: object, qapp: QApplication) -> None:
    """painting/tab_picture.py; the legends in ui/shell/legend.py and core/sheets/legend.py"""
    load_fonts()
    score = marked(field, kind)
    pictures = []
    for shown in (score, plain(score, field)):
        image = QImage(600, 300, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        draw_tab(painter, TabFrame(600, 300), TabContent(shown), PAPER)
        painter.end()
        pictures.append(image)
    assert pictures[0] != pictures[1] or kind is End.RUNS_ON  # the next note's line goes on from it
    if kind not in SAYS_NOTHING | {End.CHOKED, End.SLIDES_AWAY, Tone.TAPPED_HARMONIC}:
        assert any(getattr(note, field) is kind for _words, note in SAMPLES)
    if field == "tone":
        assert str(kind) in TELLS


@every
def test_it_sounds(field: str, kind: object) -> None:
    """core/proving/string_model.py"""
    score = marked(field, kind)
    if kind not in SOUNDS_ALIKE:
        first, second = (render(shown, duration_s=2.5).samples for shown in (score, plain(score, field)))
        assert abs(first - second).max() > 1e-3


def test_each_has_its_command(program: Program) -> None:
    """ui/benches/notch/commands.py; a technique without keys is out of reach by hand"""
    commands = {command.id: command for command in program.commands}
    for field, kind in ALL:
        if kind is not End.RUNS_ON:  # it is so, or not, by what comes after it
            assert commands[f"{field}.{kind}"].keys, kind
