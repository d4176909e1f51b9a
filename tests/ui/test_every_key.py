"""Every command that has keys, pressed once where it belongs: something of the document, the sound or the picture is
another afterwards, or a question stands there."""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog

from hands import all_selected_at, gone, press
from notcher.core.formats import Document
from notcher.core.score import BY_HAND, Chord, Score, Section
from notcher.core.sound import Clip
from notcher.devices import KeyFootswitch, SimulatedGuitarist, SimulatedLoudspeaker, WrittenVoice
from notcher.painting.theme import load_fonts
from notcher.ui.commands.command import Scope
from notcher.ui.shell.program import Program
from notcher.ui.state.settings import Settings

ENDS_IT = {"file.quit"}
NEEDS_EVIDENCE = {
    *("note.otherwise", "note.otherwise_back", "walk.unclaimed", "note.snap", "phrase.snap", "chords.propose"),
    *("variant.next", "variant.hear", "variant.put_back"),  # need a variant
    *(
        "ledger.changes",
        "ledger.student",
        "take.verdict",
        "lesson.again",
        "lesson.extend",
    ),  # need students, a take, a lesson that runs
    "help.next_card",  # needs cards over the demo
    "file.keep_stretch",  # needs a loop over a recording: see day_walk
    *("view.degrees", "view.licks", "shapes.elsewhere", "section.propose"),  # need chords, or what comes again
}
"""Have tests of their own."""
BEFORE = {
    "edit.undo": ("W",),
    "harmonic.partial": ("2", 700, "C"),
    "view.closer": ("Ctrl+-",),
    "edit.redo": ("W", "Ctrl+Z"),
    "view.page_on": ("Ctrl++",) * 6,
    "view.page_back": ("Ctrl++",) * 6,
    "view.back": ("Ctrl+Right",),
    "place.unlock": ("Ctrl+L",),
    "place.lower_string": ("Shift+Up",),
    "finger.none": ("Alt+1",),
    "attack.pick": ("W",),
    "end.stops": ("Shift+X",),
    "bend.less": ("S",),
    "notes.paste": ("Ctrl+C",),
    "notes.paste_moved": ("Ctrl+C",),
    "note.join": ("Return", "Alt+Shift+Right", "Ctrl+D", "Left"),
    "pitch.meet": ("Ctrl+F6",),
    "beat.tap": (";", 450, ";", 450, ";", 450),
    "lesson.run": ("P",),
    "note.split": ("Return", "Alt+Shift+Right"),
    "note.insert": ("End", "Return", *("Alt+Shift+Right",) * 20),
    "place.again": ("Ctrl+Shift+Up",),
    "play.seek_note": ("Alt+Shift+Right",),
    "playhead.previous_note": ("Return",),
    "playhead.previous_beat": ("Return",),
    "playhead.previous_bar": ("Return", "Alt+PgDown"),
    "playhead.earlier": ("Return",),
    "source.recording": ("F6",),
    "view.strokes": ("/",),
    "phrase.end": ("Left",),
    "phrase.join": ("Home",),
    "phrase.propose": ("Home", "Ctrl+Shift+Del"),
    "walk.last": ("Home",),
    "select.phrase": ("Home",),
    "view.phrase": ("Ctrl++",),
    "view.all": ("Ctrl++",),
    "bench.notch": ("Ctrl+1",),
    "bend.release": ("S",),
    "walk.previous_phrase": ("End",),
    "walk.higher_string": ("Home",),
    "walk.lower_string": ("Right",),
    "step.longer": ("-",),
    "board.clear": ("C",),
    "lesson.next": ("P",),
    "lesson.previous": ("P", "N"),
    "lesson.skip": ("P",),
    "lesson.more_rounds": ("P", "N"),
    "lesson.fewer_rounds": ("P", "N"),
    "lesson.lock": ("P", "N"),
    "lesson.earlier": ("P", "N"),
    "lesson.later": ("P",),
    "lesson.as_proposed": ("P", "X"),
    "lesson.keep": ("P",),
    "lesson.understood": ("P",),
}
"""Keys that bring about what a command is for; a number is a pause, ms."""
PARTS = 4  # so that none takes minutes
SAYS = {"walk_words.phrase", "phrase.copy_text", "phrase.copy_picture"}
"""What they say is what they are for."""


@pytest.fixture(scope="module")
def running(tmp_path_factory: pytest.TempPathFactory, qapp: QApplication) -> Iterator[Program]:
    """One program for all keys; every one begins from a document opened anew."""
    load_fonts()
    folder = tmp_path_factory.mktemp("keys")
    settings = Settings(QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat))
    program = Program(
        settings,
        SimulatedLoudspeaker(),
        guitar=SimulatedGuitarist(),
        footswitch=KeyFootswitch(),
        voice=WrittenVoice(),
        state=folder / "state",
    )
    program.window.show()
    yield program
    program.teaching.recorder.cancel()
    program.saved()
    program.close()


def told(program: Program) -> tuple[object, ...]:
    """What the document, the sound and the picture are."""
    session, player = program.session, program.player
    return (
        session.score, all_selected_at(session), program.ledger.book, session.undo_stack.index(),
        player.time_s, player.pace, player.semitones, player.count_in, player.loop_span,
        player.playing or player.preparing,
        program.sources.chosen, program.teaching.recorder.state, program.bench, program.notch.writing.step_beats,
        program.notching.bench.editor._copied, program.window.grab().toImage(),
    )  # fmt: skip


def settled(program: Program) -> tuple[object, ...]:
    """What everything is once nothing moves by itself any more."""
    now = told(program)
    for _ in range(100):
        QTest.qWait(10)
        before, now = now, told(program)
        if now == before:
            return now
    raise AssertionError("the window does not come to rest")


def computed(program: Program) -> None:
    """Wait until what a key asks for is computed."""
    while any(program.jobs.runs(kind) for kind in ("lesson", "ledger", "ledger open")):
        QTest.qWait(5)


def asked() -> QDialog | None:
    """What is asked, if anything."""
    QTest.qWait(15)
    for widget in QApplication.topLevelWidgets():
        if isinstance(widget, QDialog) and widget.isVisible():
            return widget
    return None


def reach(program: Program, name: str) -> None:
    """Press a command's keys; something is another afterwards."""
    for keys in BEFORE.get(name, ()):
        if isinstance(keys, int):
            QTest.qWait(keys)
            continue
        press(keys)
        QTest.qWait(5)
        computed(program)
    program.window.notices.quiet()
    if name == "source.band":
        program.session.edit("Chord", replace(program.score, chords=(Chord(0.0, "Am"),)))
    if name == "file.copied_tab":
        board = QApplication.clipboard()
        assert board is not None
        board.setText("\n".join(f"{string}|--3--5--|" for string in "eBGDAE"))
    if name.startswith("offer."):
        program.window.offer("One or the other.", *(("Take it", program.window.withdraw),) * 2)
    assert not program.commands[name].disabled_reason, f"{name} cannot run: {program.commands[name].disabled_reason}"
    before = settled(program)
    press(program.commands.keys(name))
    dialog = asked()
    if dialog is not None:
        QTest.keyClick(QApplication.focusWidget() or dialog, "\x1b")
        dialog.reject()
        with suppress(AssertionError):
            gone(dialog)
        return
    computed(program)
    if name in SAYS:
        assert program.window.notices.isVisible(), f"{name} says nothing"
        return
    if program.window.notices.isVisible():  # what is only said was not done
        program.window.notices.quiet()
        QTest.qWait(30)
    assert told(program) != before, f"{name} by {program.commands.keys(name)} does nothing"


def opened_anew(program: Program, lick: Score, clip: Clip) -> None:
    """The lick on the Notch bench, its second note selected; two are in doubt, nothing plays."""
    program.player.stop()
    program.teaching.recorder.cancel()
    program.saved()
    doubted = lick.with_note(lick.notes[4].id, doubt=BY_HAND).with_note(lick.notes[1].id, doubt=BY_HAND, certainty=0.5)
    doubted = replace(doubted, sections=(Section(0.4, 3.0, "Watch"),))
    program.open(Document(doubted, clip, attacks_s=np.array([0.5, 0.98, 1.3, 2.0, 3.52])), None)
    program.player.set_loop(None)
    program.player.set_pace(0.5)
    program.player.set_pitch(0.0)
    program.notching.bench.editor.take(())
    press("Right")


def silent(program: Program, lick: Score, clip: Clip, names: list[str], bench_keys: str = "") -> list[str]:
    """The commands whose keys change nothing. bench_keys: lead to where they belong."""
    found = []
    for name in names:
        opened_anew(program, lick, clip)
        if bench_keys:
            press(bench_keys)
        try:
            reach(program, name)
        except AssertionError as problem:
            found.append(str(problem).splitlines()[0])
    return found


def names(program: Program, *scopes: Scope) -> list[str]:
    return [command.id for command in program.commands if command.keys and command.scope in scopes]


@pytest.mark.slow
@pytest.mark.parametrize("part", range(PARTS))
def test_every_key_of_the_window_and_the_tab_does_something(
    running: Program, lick: Score, lick_clip: Clip, part: int
) -> None:
    wanted = [n for n in names(running, Scope.TAB, Scope.EVERYWHERE) if n not in ENDS_IT | NEEDS_EVIDENCE]
    assert len(wanted) > 100
    assert silent(running, lick, lick_clip, wanted[part::PARTS]) == []


@pytest.mark.slow
def test_every_key_of_the_board_does_something(running: Program, lick: Score, lick_clip: Clip) -> None:
    wanted = [name for name in names(running, Scope.BOARD) if name not in NEEDS_EVIDENCE]
    assert silent(running, lick, lick_clip, wanted, "Ctrl+5") == []


@pytest.mark.slow
def test_a_key_that_does_nothing_is_found_out(running: Program, lick: Score, lick_clip: Clip) -> None:
    known = running.commands._commands
    for name in ("walk.next", "bend.further", "pace.slower", "view.closer", "note.join", "note.split"):
        kept = known[name]
        known[name] = replace(kept, run=lambda: None)
        try:
            assert silent(running, lick, lick_clip, [name]), name
            known[name] = replace(kept, run=lambda: running.context.shell.notice("This cannot be done here."))
            assert silent(running, lick, lick_clip, [name]), f"{name}: a refusal is nothing done"
        finally:
            known[name] = kept
