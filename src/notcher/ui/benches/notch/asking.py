"""What the Notch bench asks before an edit: frets, chords, remarks, how to paste; each answer becomes one edit."""

from PyQt6.QtWidgets import QInputDialog, QWidget

from notcher.core.words import seconds
from notcher.ui.benches.notch.notch_edits import NotchEdits
from notcher.ui.playback.player import Player
from notcher.ui.state.session import Session

PASTES: dict[str, dict[str, int | None]] = {
    "1 octave higher, placed anew": {"semitones": 12},
    "1 octave lower, placed anew": {"semitones": -12},
    "by semitones, placed anew …": {"semitones": None},
    "the shape by frets, on its strings …": {"frets": None},
    "the shape 1 string lower": {"strings": 1},
    "the shape 1 string higher": {"strings": -1},
}
"""Ways to paste; None is asked for."""


class NotchAsking:
    """Opens the bench's small dialogs over a widget."""

    def __init__(self, session: Session, edits: NotchEdits, player: Player, parent: QWidget) -> None:
        self._session, self._edits, self._player, self._parent = session, edits, player, parent

    def near_fret(self) -> None:
        fret, sure = QInputDialog.getInt(self._parent, "Around a fret", "Play this phrase around fret", 12, 0, 22)
        if sure:
            self._edits.wish_near(fret)

    def chord(self) -> None:
        """Ask for the chord at the selected note."""
        note = self._session.note
        self.chord_at(note.onset_s if note is not None else self._player.time_s)

    def chord_at(self, time_s: float) -> None:
        near = self._session.score.chord_beginning_at(time_s)
        name, sure = QInputDialog.getText(
            self._parent,
            "Chord",
            f"Chord from {seconds(time_s)} (empty takes it away)",
            text=near.name if near is not None else "",
        )
        if sure:
            self._edits.chord(near.start_s if near is not None else time_s, name)

    def remark(self) -> None:
        note = self._session.note
        if note is not None:
            text, sure = QInputDialog.getText(self._parent, "Remark", "What to say about this note", text=note.remark)
            if sure:
                self._edits.remark(text)

    def paste(self) -> None:
        """Paste moved: by an octave or semitones and placed anew, or as a shape by frets or strings."""
        way, sure = QInputDialog.getItem(
            self._parent, "Paste moved", "How the copied notes move", list(PASTES), 0, False
        )
        if not sure:
            return
        moves: dict[str, int] = {}
        for unit, by in PASTES[way].items():
            if by is None:
                question = f"{unit.capitalize()}, minus for lower"
                by, sure = QInputDialog.getInt(self._parent, "Paste moved", question, 2, -36, 36)
                if not sure:
                    return
            moves[unit] = by
        self._edits.paste(self._player.time_s, **moves)
