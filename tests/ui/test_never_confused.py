"""One document is never taken for another, and nothing that a person made is lost between two."""

import threading
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from hands import act, answer, choose, press, question
from notcher.core.formats import AutosaveStore, Document, read_document, write_document
from notcher.core.ledger.record import Record
from notcher.core.ledger.store import Ledger
from notcher.core.proving import Take
from notcher.core.score import Chord, Note, Score
from notcher.core.sound import Clip, read_clip
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker
from notcher.ui.shell import analysing, opening, saving
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench


class Gate:
    """Holds work up in its thread until it is opened; says when the work has come to it."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, module: object, name: str) -> None:
        self.reached, self._open = threading.Event(), threading.Event()
        inside = getattr(module, name)

        def held(*values: object, **named: object) -> object:
            self.reached.set()
            assert self._open.wait(20)
            return inside(*values, **named)

        monkeypatch.setattr(module, name, held)

    def open(self) -> None:
        self._open.set()


def song(title: str, frets: tuple[int, ...] = (5, 7, 8)) -> Document:
    notes = tuple(Note(0.5 * i, 0.5 * i + 0.4, 2, fret) for i, fret in enumerate(frets))
    return Document(Score(notes, title=title))


@pytest.fixture
def paths(tmp_path: Path) -> tuple[Path, Path]:
    for name in ("a", "b"):
        write_document(song(name.upper()), tmp_path / f"{name}.notch")
    return tmp_path / "a.notch", tmp_path / "b.notch"


def opened(program: Program, path: Path, qtbot: QtBot) -> None:
    program.open_path(str(path))
    qtbot.waitUntil(lambda: program.session.path == path and not program.busy, timeout=10_000)


def idle(program: Program, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not program.busy, timeout=20_000)


# --- saving ---
@pytest.mark.slow
def test_a_save_belongs_to_its_document(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    """While A is being saved B comes to the front: B keeps its own path, and is not called saved."""
    first, second = paths
    opened(program, first, qtbot)
    press("9")
    gate = Gate(monkeypatch, saving, "write_document")
    press("Ctrl+S")
    assert gate.reached.wait(10)
    other = read_document(second)
    program.open(other, second)
    press("9")
    gate.open()
    idle(program, qtbot)
    assert program.session.path == second
    assert program.session.unsaved
    assert read_document(first).score.notes[0].fret == 9, "A was saved where it belongs"
    assert read_document(second).score.notes[0].fret == 5, "and B was not"


def test_opening_waits_for_a_save(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second = paths
    opened(program, first, qtbot)
    press("9")
    gate = Gate(monkeypatch, saving, "write_document")
    press("Ctrl+S")
    assert gate.reached.wait(10)
    program.open_path(str(second))
    assert program.session.path == first
    gate.open()
    qtbot.waitUntil(lambda: program.session.path == second and not program.busy, timeout=10_000)
    assert read_document(first).score.notes[0].fret == 9


def test_a_second_save_waits_for_the_first_and_the_newer_state_is_on_disk(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    opened(program, paths[0], qtbot)
    press("9")
    gate = Gate(monkeypatch, saving, "write_document")
    press("Ctrl+S")
    assert gate.reached.wait(10)
    press("Right")
    press("3")
    press("Ctrl+S")
    press("Ctrl+S")
    gate.open()
    qtbot.waitUntil(lambda: not program.session.unsaved and not program.busy, timeout=10_000)
    assert [note.fret for note in read_document(paths[0]).score.notes] == [9, 3, 8]


def test_what_is_changed_while_it_is_saved_stays_unsaved(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    opened(program, paths[0], qtbot)
    press("9")
    gate = Gate(monkeypatch, saving, "write_document")
    press("Ctrl+S")
    assert gate.reached.wait(10)
    press("O")
    gate.open()
    idle(program, qtbot)
    assert program.session.unsaved
    assert not read_document(paths[0]).score.notes[0].garnish


def test_closing_waits_for_a_save(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    opened(program, paths[0], qtbot)
    press("9")
    gate = Gate(monkeypatch, saving, "write_document")
    press("Ctrl+S")
    assert gate.reached.wait(10)
    program.close()
    assert program.window.isVisible(), "not before the save has ended"
    gate.open()
    qtbot.waitUntil(lambda: not program.window.isVisible(), timeout=10_000)
    assert read_document(paths[0]).score.notes[0].fret == 9


def test_saved_as_another_file_it_is_another_document(program: Program, qtbot: QtBot, paths: tuple[Path, Path]) -> None:
    opened(program, paths[0], qtbot)
    document_id, notes = program.document.id, [note.id for note in program.score.notes]
    press("Ctrl+S")
    idle(program, qtbot)
    assert read_document(paths[0]).id == document_id, "the same file is the same document"
    press("Ctrl+Shift+S")
    answer(str(paths[0].with_name("copy.notch")))
    qtbot.waitUntil(lambda: program.session.path == paths[0].with_name("copy.notch"), timeout=10_000)
    assert program.document.id != document_id
    assert read_document(paths[0].with_name("copy.notch")).id == program.document.id
    assert read_document(paths[0]).id == document_id
    assert [note.id for note in program.score.notes] == notes


@pytest.mark.parametrize(("words", "again"), [("Save it there again", True), ("Cancel", False)])
def test_a_file_that_was_renamed_meanwhile_is_not_made_again_silently(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path], words: str, again: bool
) -> None:
    first = paths[0]
    opened(program, first, qtbot)
    press("9")
    first.rename(first.with_name("renamed.notch"))
    press("Ctrl+S")
    assert "renamed, moved or deleted" in question().text()  # type: ignore[attr-defined]
    choose(words)
    idle(program, qtbot)
    assert first.exists() == again
    assert program.session.unsaved != again


def test_other_names_of_a_file_are_told_that_they_keep_what_was(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path]
) -> None:
    first = paths[0]
    first.with_name("second name.notch").hardlink_to(first)
    opened(program, first, qtbot)
    press("9")
    press("Ctrl+S")
    idle(program, qtbot)
    assert "1 other hard link" in program.said


def test_a_file_that_somebody_else_has_changed_is_asked_about(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path]
) -> None:
    first = paths[0]
    opened(program, first, qtbot)
    press("9")
    write_document(song("theirs", (1, 1, 1)), first)
    press("Ctrl+S")
    assert "changed by somebody else" in question().text()  # type: ignore[attr-defined]
    choose("Cancel")
    idle(program, qtbot)
    assert read_document(first).score.title == "theirs"
    assert program.session.unsaved
    press("Ctrl+S")
    choose("Save under another name")
    answer(str(first.with_name("mine.notch")))
    qtbot.waitUntil(lambda: not program.session.unsaved and not program.busy, timeout=10_000)
    assert read_document(first).score.title == "theirs"
    assert read_document(first.with_name("mine.notch")).score.notes[0].fret == 9


@pytest.fixture
def beside(qtbot: QtBot, program: Program, tmp_path: Path) -> Iterator[Program]:
    """A second window over the same state of the program."""
    settings = Settings(QSettings(str(tmp_path / "other.ini"), QSettings.Format.IniFormat))
    made = Program(
        settings, SimulatedLoudspeaker(), guitar=SimulatedGuitarist(), footswitch=KeyFootswitch(),
        state=tmp_path / "state",
    )  # fmt: skip
    made.window.show()
    yield made
    made.saved()
    made.close()


@pytest.mark.slow
def test_a_document_opened_twice_is_noticed(
    program: Program, beside: Program, qtbot: QtBot, paths: tuple[Path, Path]
) -> None:
    opened(program, paths[0], qtbot)
    assert "another window" not in program.said
    opened(beside, paths[0], qtbot)
    assert "open in another window" in beside.window.notices.label.text()
    opened(program, paths[1], qtbot)
    opened(beside, paths[0], qtbot)
    beside.window.notices.quiet()
    opened(beside, paths[0], qtbot)
    assert not beside.window.notices.isVisible(), "the other window has let it go"


# --- work that was begun for one document ---
def test_a_draft_never_replaces_a_solo_that_was_begun_meanwhile(
    program: Program, qtbot: QtBot, lick_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    gate = Gate(monkeypatch, analysing, "read_clip")
    program.open_path(str(lick_file))
    assert gate.reached.wait(10)
    act(program, "file.by_hand")
    answer("4/4")
    QTest.keyClicks(program.notch.tab, "7")
    gate.open()
    idle(program, qtbot)
    QTest.qWait(50)
    assert program.score.title == "By hand"
    assert [note.fret for note in program.score.notes] == [7]


def test_edits_made_while_something_opens_are_asked_about(
    program: Program, qtbot: QtBot, paths: tuple[Path, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    opened(program, paths[0], qtbot)
    gate = Gate(monkeypatch, opening, "read_document")
    program.open_path(str(paths[1]))
    assert gate.reached.wait(10)
    press("9")
    gate.open()
    question()
    choose("Cancel")
    assert (program.session.path, program.score.notes[0].fret) == (paths[0], 9)


@pytest.mark.slow
def test_a_take_of_one_document_never_appears_in_another(
    program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip, paths: tuple[Path, Path],
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    from notcher.ui.benches.teach import take_recorder

    program.open(Document(lick, lick_clip), None)
    program.show(Bench.TEACH)
    program.player.speaker._speed = program.guitar._speed = 10.0  # type: ignore[attr-defined]
    gate = Gate(monkeypatch, take_recorder, "hear_take")
    qtbot.mouseClick(program.teach.take_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(gate.reached.is_set, timeout=20_000)
    assert len(program.practice.takes) == 1, "a take is kept before it is judged"
    program.open(song("B"), paths[1])
    gate.open()
    idle(program, qtbot)
    QTest.qWait(50)
    assert program.practice.takes == []
    assert program.teach.takes.takes == []
    assert program.teaching.recorder.state == "idle"


@pytest.mark.slow
def test_hearing_the_rest_keeps_what_was_done_meanwhile(
    program: Program, qtbot: QtBot, lick_clip: Clip, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A long recording: its first phrases are open and are worked on while the rest is heard."""
    from notcher.core.sound import write_clip

    times = [lick_clip.samples] * 7
    write_clip(Clip(np.concatenate(times), lick_clip.sample_rate, "long"), tmp_path / "long.wav", kind="WAV")
    gate = Gate(monkeypatch, analysing, "draft")
    program.open_path(str(tmp_path / "long.wav"))
    qtbot.waitUntil(lambda: bool(program.score.notes) and gate.reached.is_set(), timeout=60_000)
    session, begun = program.session, len(program.score.notes)
    first = session.score.notes[0]
    press("Ctrl+M")
    answer("softly")
    press("Right")
    gone = session.note.id  # type: ignore[union-attr]
    press("Del")
    session.edit("Chord", replace(session.score, chords=(Chord(0.0, "Am"),)))
    gate.open()
    qtbot.waitUntil(lambda: len(session.score.notes) > begun and not program.busy, timeout=60_000)
    assert session.score.notes[0].id == first.id
    assert session.score.notes[0].remark == "softly"
    assert session.score.note_of(gone) is None
    assert session.score.chords == (Chord(0.0, "Am"),)
    assert session.undo_stack.undoText() == "Draft the rest"


# --- takes belong to a student, and no document carries them ---
@pytest.mark.slow
def test_a_take_is_kept_in_the_ledger_and_heard_again_when_looked_at(
    program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip, tmp_path: Path
) -> None:
    path = tmp_path / "lick.notch"
    write_document(Document(lick, lick_clip), path)
    opened(program, path, qtbot)
    program.show(Bench.TEACH)
    program.player.speaker._speed = program.guitar._speed = 10.0  # type: ignore[attr-defined]
    qtbot.mouseClick(program.teach.take_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: program.teaching.recorder.state == "idle" and not program.busy, timeout=30_000)
    assert not program.session.unsaved, "a take is no part of the document"
    assert not list((tmp_path / "state").rglob("*.raw")), "what was kept while it was recorded is cleared away"
    program.close()
    again = Program(program.settings, SimulatedLoudspeaker(), state=tmp_path / "state")
    again.window.show()
    opened(again, path, qtbot)
    press("Ctrl+5")
    qtbot.waitUntil(lambda: [take.name for take in again.practice.takes] == ["Take 1"], timeout=20_000)
    sound = read_clip(tmp_path / "state" / "data" / "takes" / f"{again.practice.takes[0].id}.flac")
    assert np.abs(sound.samples).max() > 0.01
    takes = again.teach.takes
    assert takes.take is not None
    assert takes.take.report is None
    qtbot.mouseClick(again.teach.takes_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: takes.take is not None and takes.take.report is not None, timeout=20_000)
    assert "notes played at 50 %" in takes.summary.text()
    again.close()


@pytest.mark.slow
def test_a_take_that_a_kill_cut_off_is_in_the_ledger_once_the_work_is_opened(
    program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip, tmp_path: Path
) -> None:
    phrase, document = lick.phrases[0], Document(lick, lick_clip)
    killed = AutosaveStore(tmp_path / "state" / "unsaved", document.id)
    take = Take("t", "Take 4", (phrase.id,), phrase.start_s, phrase.end_s, 1.0, "file", student="somebody gone")
    stream = killed.take_stream(take, document, None, None, sample_rate=lick_clip.sample_rate)
    stream.write(lick_clip.cut(0.0, phrase.end_s + 0.3).mixed())
    stream.close()
    assert killed._lock is not None
    killed._lock.release()  # what a kill does to the lock
    program.opening.offer_unsaved()
    qtbot.mouseClick(program.window.notices.buttons[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(program.practice.takes) and not program.busy, timeout=20_000)
    assert [kept.name for kept in program.practice.takes] == ["Take 4 (cut off)"]
    qtbot.waitUntil(lambda: not killed.folder.exists(), timeout=20_000)
    sound = tmp_path / "state" / "data" / "takes" / "t.flac"
    assert sound.exists(), "what was left behind goes only when the take is in the ledger"
    press("Ctrl+5")
    takes = program.teach.takes
    qtbot.mouseClick(program.teach.takes_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: takes.take is not None and takes.take.report is not None, timeout=20_000)
    assert "4 of 4 notes" in takes.summary.text()


@pytest.mark.slow
def test_a_take_that_is_being_recorded_when_the_window_closes_is_kept(
    program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip, tmp_path: Path
) -> None:
    program.open(Document(lick, lick_clip), None)
    program.show(Bench.TEACH)
    qtbot.mouseClick(program.teach.take_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: program.teaching.recorder.share > 0.3, timeout=20_000)
    raw = list((tmp_path / "state").rglob("*.raw"))
    assert len(raw) == 1
    qtbot.waitUntil(lambda: raw[0].stat().st_size > 4 * 0.5 * program.guitar.sample_rate, timeout=10_000)
    program.close()
    assert program.teaching.recorder.state != "recording"
    assert not program.window.isVisible()
    ledger = Ledger(tmp_path / "state" / "data" / "ledger.sqlite")
    (kept,) = Record(ledger).read().takes.values()
    assert Record(ledger).sound(kept.id).duration_s > 0.4
    ledger.close()


# --- marks and undo ---
def test_a_mark_is_no_edit_of_the_music(program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip) -> None:
    program.open(Document(lick, lick_clip), None)
    press("9")
    program.show(Bench.TEACH)
    press("C")
    assert [str(mark.result) for mark in program.passes] == ["clean"]
    press("Ctrl+2")
    press("Ctrl+Z")
    assert program.score.notes[0].fret == lick.notes[0].fret, "on the tab undo goes back in the music"
    assert len(program.passes) == 1, "and the mark stays"
    assert not program.session.unsaved, "a mark is no edit of the document"


@pytest.mark.slow
def test_a_clean_exit_leaves_nothing_to_recover(program: Program, qtbot: QtBot, paths: tuple[Path, Path]) -> None:
    opened(program, paths[0], qtbot)
    press("9")
    unsaved = program.autosave.store.folder
    qtbot.waitUntil(lambda: (unsaved / "journal.jsonl").exists(), timeout=5_000)
    press("3")  # the journal is waiting to be written when the window closes
    program.close()
    choose("Give them up")
    qtbot.waitUntil(lambda: not program.window.isVisible(), timeout=5_000)
    assert not unsaved.exists()
    assert list(program.autosave.recovery.found()) == []
