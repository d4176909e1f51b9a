"""What the window asks before it does something: names, frets, chords, keys; each answer becomes one edit."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QInputDialog

from notcher.core.formats import Document
from notcher.core.score import BeatMap, Score
from notcher.ui.commands.finder import ActionFinder, KeysDialog
from notcher.ui.commands.menus import BENCH_NAMES
from notcher.ui.shell.states import StatesDialog

if TYPE_CHECKING:
    from notcher.ui.shell.window import Window

PASTES: dict[str, dict[str, int | None]] = {
    "1 octave higher, placed anew": {"semitones": 12},
    "1 octave lower, placed anew": {"semitones": -12},
    "by semitones, placed anew …": {"semitones": None},
    "the shape by frets, on its strings …": {"frets": None},
    "the shape 1 string lower": {"strings": 1},
    "the shape 1 string higher": {"strings": -1},
}
"""Ways to paste; None is asked for."""


class Asking:
    """Opens the window's small dialogs."""

    def __init__(self, window: Window) -> None:
        self._window = window

    def show_finder(self) -> None:
        ActionFinder(self._window.actions_by_name, self._window).exec()

    def show_keys(self) -> None:
        dialog = KeysDialog(self._window.actions_by_name, self._window.usual_keys, self._window)
        if dialog.exec():
            self.take_keys(dialog.chosen)

    def take_keys(self, chosen: dict[str, str]) -> None:
        """Give the actions these keys from now on; those that equal the usual ones need not be remembered."""
        for name, keys in chosen.items():
            self._window.actions_by_name[name].setShortcut(QKeySequence(keys))
            self._window.settings.set_keys(name, None if keys == self._window.usual_keys[name] else keys)

    def ask_near_fret(self) -> None:
        fret, sure = QInputDialog.getInt(self._window, "Around a fret", "Play this phrase around fret", 12, 0, 22)
        if sure:
            self._window.notch.edits.wish_near(fret)

    def ask_chord(self) -> None:
        """Ask for the chord at the selected note."""
        note = self._window.session.note
        self.ask_chord_at(note.onset_s if note is not None else self._window.player.time_s)

    def ask_chord_at(self, time_s: float) -> None:
        near = next((c for c in self._window.session.score.chords if abs(c.start_s - time_s) <= 0.1), None)
        name, sure = QInputDialog.getText(
            self._window, "Chord", f"Chord from {time_s:.2f} s (empty takes it away)", text=near.name if near else ""
        )
        if sure:
            self._window.notch.edits.chord(near.start_s if near else time_s, name)

    def ask_remark(self) -> None:
        note = self._window.session.note
        if note is not None:
            text, sure = QInputDialog.getText(self._window, "Remark", "What to say about this note", text=note.remark)
            if sure:
                self._window.notch.edits.remark(text)

    def ask_paste(self) -> None:
        """Paste moved: by an octave or semitones and placed anew, or as a shape by frets or strings."""
        way, sure = QInputDialog.getItem(
            self._window, "Paste moved", "How the copied notes move", list(PASTES), 0, False
        )
        if not sure:
            return
        moves = dict(PASTES[way])
        for unit, by in moves.items():
            if by is None:
                by, sure = QInputDialog.getInt(
                    self._window, "Paste moved", f"{unit.capitalize()}, minus for lower", 2, -36, 36
                )
                if not sure:
                    return
                moves[unit] = by
        self._window.notch.edits.paste(self._window.player.time_s, **moves)

    def ask_state_name(self) -> None:
        kept = len(self._window.session.document.revisions)
        name, sure = QInputDialog.getText(
            self._window, "Keep this state", "Name of the state", text=f"State {kept + 1}"
        )
        if sure and name.strip():
            self._window.session.keep_state(name.strip(), datetime.now().isoformat(timespec="seconds"))
            self._window.mark_unsaved()
            self._window.notice(
                f"“{name.strip()}” is kept with the document. Edit, Kept states compares and goes back."
            )

    def show_states(self) -> None:
        StatesDialog(self._window.session, self._window).exec()

    def new_by_hand(self) -> None:
        """Begin a solo without a recording, against a beat map."""
        if not self._window.may_leave():
            return
        tempo, sure = QInputDialog.getInt(self._window, "Write by hand", "Beats a minute", 100, 30, 300)
        if sure:
            self._window.session.open(
                Document(Score(beat_map=BeatMap.steady(float(tempo), 0.0), title="By hand")), None
            )
            self._window.show_bench(BENCH_NAMES.index("Notch"))
            self._window.notice(
                "I writes the next note, figures give its fret; Ctrl+I lets a click on the neck write it."
            )
