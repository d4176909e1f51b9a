"""The Hear bench through the real window: what is listened to, hints that lead the ear, tuning, beat map and meter."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from hands import press, walk_to
from notcher.core.formats import Document, write_document
from notcher.core.score import Score
from notcher.core.sound import Clip, write_clip
from notcher.ui.benches.hear.hear_bench import SoundPicture
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench


@pytest.fixture
def heard(program: Program, qtbot: QtBot, lick_clip: Clip, tmp_path: Path) -> Program:
    """The lick in the middle of a stereo picture with a hum on the left, drafted; the Hear bench in front."""
    times_s = np.arange(lick_clip.samples.shape[0]) / lick_clip.sample_rate
    hum = 0.1 * np.sin(2 * np.pi * 97 * times_s)
    lead = lick_clip.samples[:, 0]
    write_clip(Clip(np.stack([lead + hum, lead], axis=1).astype(np.float32), 44_100), tmp_path / "wide.wav", kind="WAV")
    program.open_path(str(tmp_path / "wide.wav"))
    qtbot.waitUntil(lambda: len(program.score.notes) >= 5 and not program.busy, timeout=30_000)
    program.show(Bench.HEAR)
    program.notch.tab.show_span(0.0, 6.0)
    return program


def point(picture: SoundPicture, time_s: float, midi: float) -> QPoint:
    return QPoint(round(picture._x(time_s)), round(float(picture._y(midi))))


def pitches(score: Score) -> list[float]:
    return [score.fretted_midi(note) for note in score.notes]


def test_a_box_leads_the_ear_and_only_there(heard: Program, qtbot: QtBot) -> None:
    session, picture = heard.session, heard.hear.picture
    before = session.score
    note = before.notes[0]
    octave = before.fretted_midi(note) + 12
    start = point(picture, note.onset_s - 0.05, octave + 1.0)
    end = point(picture, note.offset_s, octave - 1.0)
    qtbot.mousePress(picture, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(picture, end)
    qtbot.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=end)
    qtbot.waitUntil(lambda: not heard.jobs.busy, timeout=20_000)
    assert "1 given" in heard.hear.hint_facts.text()
    # the octave's partials are all there, so that is what is heard when it is said to be the lead (as a harmonic)
    first = session.score.notes[0]
    assert session.score.sounding_midi(first) == pytest.approx(octave)
    assert first.onset_s == pytest.approx(note.onset_s, abs=0.03)
    assert pitches(session.score)[-3:] == pitches(before)[-3:]
    assert session.undo_stack.undoText() == "Steer the lead"
    session.undo_stack.undo()
    assert session.score == before
    heard.hear.forget_button.click()
    assert heard.hear.hints == ()


@pytest.mark.slow
def test_a_click_points_at_one_note(heard: Program, qtbot: QtBot) -> None:
    picture, score = heard.hear.picture, heard.session.score
    note = score.notes[0]
    middle = point(picture, (note.onset_s + note.offset_s) / 2, score.fretted_midi(note))
    qtbot.mouseClick(picture, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, pos=middle)
    qtbot.waitUntil(lambda: not heard.jobs.busy, timeout=20_000)
    hint = heard.hear.hints[0]
    assert hint.low_midi < score.fretted_midi(note) < hint.high_midi
    assert pitches(heard.session.score) == pitches(score), "it was heard so already"


@pytest.mark.slow
def test_what_is_listened_to_is_shown_and_played(heard: Program, qtbot: QtBot) -> None:
    hear, recording = heard.hear, heard.session.document.clip
    assert recording is not None
    hear.play_box.setChecked(True)
    qtbot.waitUntil(lambda: heard.player.clip is not recording and not heard.jobs.busy, timeout=20_000)
    kept = heard.player.clip
    assert kept is not None

    def level(clip: Clip, hertz: float) -> float:
        spectrum = np.abs(np.fft.rfft(clip.samples.mean(axis=1)))
        return float(spectrum[round(hertz * clip.samples.shape[0] / clip.sample_rate)])

    # the hum is on one side only: 20 dB is a tenth
    assert level(kept, 97) < 0.1 * level(recording, 97)
    before = hear.picture._spectrogram
    hear.band_box.setChecked(True)
    qtbot.waitUntil(lambda: hear.picture._spectrogram is not before and not heard.jobs.busy, timeout=20_000)
    hear.band_low.setValue(2000)
    hear.band_low.editingFinished.emit()
    assert hear.band_hz == (2000, 2100), "an empty band is opened"
    hear.show_box.setCurrentIndex(1)
    hear.play_box.setChecked(False)
    qtbot.waitUntil(lambda: heard.player.clip is recording and not heard.jobs.busy, timeout=20_000)


@pytest.mark.slow
def test_the_bar_is_set_by_hand(heard: Program) -> None:
    session = heard.session
    tempo = session.score.beat_map.tempo_bpm
    heard.window.show_bench(Bench.HEAR)
    beats, unit = heard.hear.beats_box, heard.hear.unit_box
    walk_to(beats)
    press("Ctrl+A")
    press("6")
    walk_to(unit)
    press("Down")
    assert str(session.score.beat_map.meter) == "6/8"
    assert session.score.beat_map.tempo_bpm == pytest.approx(tempo), "the beats that were heard stay the felt ones"
    assert "2 beats to a bar, each a dotted quarter" in heard.hear.beat_facts.text()
    assert session.undo_stack.undoText() == "Meter 6/8"
    session.undo_stack.undo()
    session.undo_stack.undo()
    assert (beats.value(), unit.currentText()) == (4, "quarters")


@pytest.mark.slow
def test_the_tab_is_held_against_the_band_that_is_listened_to(
    program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip, tmp_path: Path
) -> None:
    """Above 4 kHz nothing of this lead is left: every written note is missing there."""
    write_document(Document(lick, lick_clip), tmp_path / "lick.notch")
    program.open_path(str(tmp_path / "lick.notch"))
    qtbot.waitUntil(lambda: len(program.score.notes) == len(lick.notes) and not program.busy, timeout=30_000)
    program.show(Bench.HEAR)

    def write(hertz: str) -> None:
        for key in ("Ctrl+A", *hertz, "Return"):
            press(key)

    walk_to(program.hear.band_box)
    press("Return")
    walk_to(program.hear.band_high)
    write("9000")
    walk_to(program.hear.band_low)
    write("8000")
    assert program.hear.band_hz == (8000, 9000)
    program.show(Bench.PROVE)
    walk_to(program.prove.analyse_button)
    press("Return")
    qtbot.waitUntil(lambda: program.session.heard is not None and not program.busy, timeout=60_000)
    heard = program.session.heard
    assert heard is not None
    assert not set(pitches(lick)) & {round(midi) for midi in pitches(heard.score)}
    assert program.score == lick
