"""What comes in from others and goes out to students, by delivered keys."""

import io
from pathlib import Path

import mido
import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox
from pytestqt.qtbot import QtBot

from hands import answer, gone, press, question, settled
from notcher.core.formats import EXPORTS, musicxml_text, text_tab
from notcher.core.score import BeatMap, Note, Phrase, Score
from notcher.ui.shell.program import Program


def solo() -> Score:
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.4, 2 + at % 2, 5 + at) for at in range(8))
    return Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, 4.0, "Call"),), title="Neap")


def two_tracks() -> bytes:
    """A MIDI file of two tracks, the second with more notes."""
    file = mido.MidiFile(ticks_per_beat=480)
    for name, keys in (("Lead", (64, 67)), ("Bass", (40, 43, 45, 47))):
        track = mido.MidiTrack([mido.MetaMessage("track_name", name=name)])
        for key in keys:
            track += [mido.Message("note_on", note=key), mido.Message("note_off", note=key, time=480)]
        file.tracks.append(track)
    stream = io.BytesIO()
    file.save(file=stream)
    return stream.getvalue()


@pytest.mark.slow
@pytest.mark.parametrize("ending", [".txt", ".musicxml"])
def test_somebody_elses_tab_is_brought_in(program: Program, qtbot: QtBot, tmp_path: Path, ending: str) -> None:
    path = tmp_path / f"theirs{ending}"
    path.write_text(text_tab(solo()) if ending == ".txt" else musicxml_text(solo()), encoding="utf-8")
    press("Ctrl+O")
    answer(str(path))
    settled(program)
    score = program.score
    assert [(note.string, note.fret) for note in score.notes] == [(note.string, note.fret) for note in solo().notes]
    assert "8 notes read" in program.said


def test_of_several_tracks_the_lead_is_chosen(program: Program, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "band.mid"
    path.write_bytes(two_tracks())
    press("Ctrl+O")
    answer(str(path))
    settled(program)
    asked = question()
    box = asked.findChild(QComboBox)
    assert [box.itemText(at) for at in range(box.count())] == ["Lead", "Bass"]
    assert box.currentText() == "Bass"  # it has the most notes, and is proposed
    press("Up")
    press("Return")
    gone(asked)
    settled(program)
    score = program.score
    assert [score.fretted_midi(note) for note in score.notes] == [64, 67]


@pytest.mark.slow
@pytest.mark.parametrize(
    ("words", "ending", "starts"),
    [("midi", ".mid", b"MThd"), ("jams", ".jams", b"{"), ("table of notes", ".csv", b"onset_s,")],
)
def test_a_format_says_what_it_does_not_hold_before_it_is_written(
    program: Program, qtbot: QtBot, tmp_path: Path, words: str, ending: str, starts: bytes
) -> None:
    source = tmp_path / "theirs.txt"
    source.write_text(text_tab(solo()), encoding="utf-8")
    press("Ctrl+O")
    answer(str(source))
    settled(program)
    press("Ctrl+Space")
    finder = question()
    QTest.keyClicks(QApplication.focusWidget(), words)
    press("Return")
    gone(finder)
    assert program.said == EXPORTS[ending].loses
    answer(str(tmp_path / f"out{ending}"))
    settled(program)
    assert (tmp_path / f"out{ending}").read_bytes().startswith(starts)
