"""The walk through a phrase in words: one key a note, sounded slowly and said; the whole of it copied or printed."""

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QWidget

from notcher.core.words import phrase_said, place_said
from notcher.devices import Voice, WrittenVoice, find_voice, wake_voice
from notcher.ui.benches.teach.teach_bench import TeachBench
from notcher.ui.playback.player import PaceReason, Player
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_file_to_write, ask_what_to_do
from notcher.ui.widgets.pages import write_page

SLOW = 0.5  # the fastest pace at which a single note is sounded
BEFORE_S, AFTER_S = 0.03, 0.1  # of the note's neighbours: the attack is whole, the next one is not heard


class WalkController(QObject):
    """Steps through the notes of the chosen cell. voice: None looks for the machine's own when it is first needed."""

    def __init__(
        self, session: Session, teach: TeachBench, player: Player, jobs: Jobs, settings: Settings, shell: Shell,
        voice: Voice | None, parent: QWidget,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._session, self._teach, self._player, self._jobs = session, teach, player, jobs
        self._settings, self._shell, self._parent = settings, shell, parent
        self._voice: Voice | None = None
        self._waiting = ""  # what is said once the voice is there
        if voice is not None:
            self._take(voice)
        self._at = -1  # of the walked notes
        self._walked: tuple[int, ...] = ()
        session.opened.connect(self._forget)

    @property
    def voice(self) -> Voice | None:
        """What speaks; None until it is first needed and was woken."""
        return self._voice

    def _say(self, words: str) -> None:
        if self._voice is not None:
            self._voice.say(words)
            return
        self._shell.notice(words)  # to be read until it can be heard
        waits, self._waiting = bool(self._waiting), words
        if not waits:
            self._jobs.start(
                "voice",
                lambda _progress, _cancelled: wake_voice(),
                finished=lambda _none: self._woken(),
                failed=lambda _problem: self._woken(),
            )

    def _woken(self) -> None:
        self._take(find_voice(self))
        words, self._waiting = self._waiting, ""
        self._say(words)

    def _take(self, voice: Voice) -> None:
        self._voice = voice
        voice.written.connect(self._shell.notice)
        voice.lost.connect(self._on_lost)

    def _on_lost(self, sentence: str) -> None:
        self._shell.notice(sentence)
        self._take(WrittenVoice(self))

    def _forget(self) -> None:
        self._at, self._walked = -1, ()

    def close(self) -> None:
        if self._voice is not None:
            self._voice.close()

    # --- what is walked through ---
    @property
    def _notes(self) -> tuple[int, ...]:
        """The notes of the chosen cell, by their index."""
        cell = self._teach.cell
        return tuple(self._session.score.notes_between(cell[0].start_s, cell[0].end_s)) if cell is not None else ()

    def need(self) -> str:
        return "" if self._notes else "There is no phrase with notes to walk through."

    def step(self, by: int) -> None:
        """Sound and say the next note, or the one before; from the end it begins anew."""
        notes, score = self._notes, self._session.score
        if notes != self._walked:
            self._walked, self._at = notes, -1 if by > 0 else 0
        self._at = (self._at + by) % len(notes)
        note = score.notes[notes[self._at]]
        self._session.select(self._session.score.notes[notes[self._at]].id)
        self._player.set_pace(min(SLOW, self._player.pace), PaceReason.NOTE_BY_NOTE)
        self._player.play_span(note.onset_s - BEFORE_S, note.offset_s + AFTER_S)
        self._say(place_said(score, note, self._settings.naming))

    def say_again(self) -> None:
        """Say the note once more, or the first one."""
        self.step(0) if self._at >= 0 and self._notes == self._walked else self.step(1)

    def say_phrase(self) -> None:
        """Say all of it, grouped."""
        self._say(" ".join(self._script))

    @property
    def _script(self) -> list[str]:
        return phrase_said(self._session.score, self._notes, self._settings.naming)

    def script(self) -> None:
        """Show the whole script, to be copied or written as a page."""
        lines = self._script
        ask_what_to_do(
            self._parent, "The phrase in words", "\n".join(lines),
            (("Copy it", lambda: self._copy(lines)), ("Write it as a page…", lambda: self._ask_page(lines))),
        )  # fmt: skip

    def _copy(self, lines: list[str]) -> None:
        board = QGuiApplication.clipboard()
        if board is not None:
            board.setText("\n".join(lines))
            self._shell.notice("The phrase in words is copied.")

    def _ask_page(self, lines: list[str]) -> None:
        cell = self._teach.cell
        title = cell[0].phrases[0].name if cell is not None else "phrase"
        items = [("title", title), *(("line", line) for line in lines)]
        ask_file_to_write(
            self._parent, "Write the phrase in words", f"{title}.pdf", "A page (*.pdf);;Text (*.txt)",
            lambda path: write_page(path, items, self._shell),
        )  # fmt: skip
