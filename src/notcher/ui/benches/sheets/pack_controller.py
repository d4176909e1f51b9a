"""Handing out a practice pack: what goes into it, where it is put, and that it is noted who was given it."""

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QWidget

from notcher.core.errors import CancelCheck, Progress
from notcher.core.formats.document.models import score_from_data
from notcher.core.ledger import NOBODY_ID
from notcher.core.score import Score
from notcher.core.sheets import kept_choices
from notcher.core.teaching import (
    RIGHTS,
    ClickSide,
    PackChoices,
    PackedLoop,
    SoundKind,
    first_lesson,
    phrases_from_text,
    rungs_from_text,
    write_pack,
)
from notcher.core.teaching.pack import packed_phrases
from notcher.core.words import USUAL, Naming, changed_words, many
from notcher.painting.film import films_of
from notcher.painting.without_display import sheet_pdf
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell
from notcher.ui.widgets.asking import ask_file_to_write
from notcher.ui.widgets.form import Field, ask_form

ZIP = ".zip"
SOUNDS = (("MP3, for every telephone", SoundKind.MP3), ("FLAC", SoundKind.FLAC), ("OGG", SoundKind.OGG),
          ("WAV", SoundKind.WAV))  # fmt: skip
CLICKS = (
    ("only before a loop", ClickSide.NONE), ("on the left, the music on the right", ClickSide.LEFT),
    ("on the right, the music on the left", ClickSide.RIGHT),
)  # fmt: skip
FILMS = (("no films", False), ("a film of each phrase", True))


class PackController(QObject):
    """Asks what a pack is to hold and makes it beside the window."""

    def __init__(
        self,
        session: Session,
        ledger: LedgerState,
        settings: Settings,
        shell: Shell,
        parent: QWidget,
        chosen: Callable[[], tuple[str, ...]],
    ) -> None:
        """chosen: the ids of phrases that are in hand, such as the row of the practice board; empty for all."""
        super().__init__(parent)
        self._session, self._ledger, self._settings, self._shell = session, ledger, settings, shell
        self._parent, self._chosen, self._naming = parent, chosen, USUAL

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming

    def phrases_need(self) -> str:
        if any(len(self._session.document.score.notes_of(p)) for p in self._session.document.score.phrases):
            return ""
        return "There are no phrases to pack yet. Name some first."

    def ask(self) -> None:
        """Ask what goes into the pack, then where it goes."""
        score = self._session.document.score
        numbers = [str(at) for at, phrase in enumerate(score.phrases, 1) if phrase.id in self._chosen()]
        fields = (
            Field("phrases", "Phrases", ", ".join(numbers), hint="all, or by their numbers: 1, 3"),
            Field("rungs", "Tempos, percent", "50, 70, 100"),
            Field("sound", "Sounds as", SoundKind.MP3, "choice", SOUNDS),
            Field("click", "Clicks", ClickSide.NONE, "choice", CLICKS),
            Field("film", "Films", False, "choice", FILMS),
        )

        def then(values: Mapping[str, Any]) -> None:
            choices = PackChoices(
                phrases_from_text(values["phrases"], score), rungs_from_text(values["rungs"]),
                SoundKind(values["sound"]), ClickSide(values["click"]),
            )  # fmt: skip
            packed_phrases(score, choices)
            self._ask_place(choices, film=bool(values["film"]))

        ask_form(self._parent, "A practice pack", fields, then)

    def _ask_place(self, choices: PackChoices, *, film: bool) -> None:
        title = self._session.document.score.title or "untitled"
        name = f"{title} for {self._student}" if self._student else title

        def chosen(path: str) -> None:
            self._make(path if path.lower().endswith(ZIP) else f"{path}{ZIP}", choices, film=film)

        name = f"{name[:80]}{ZIP}".replace("/", " ")
        ask_file_to_write(self._parent, "Where the pack goes", name, f"*{ZIP}", chosen)

    @property
    def _student(self) -> str:
        student = self._ledger.student
        return "" if student.id == NOBODY_ID else student.name

    def _make(self, path: str, choices: PackChoices, *, film: bool) -> None:
        document, student, naming = self._session.document, self._ledger.student, self._naming
        name, score = self._student, document.score
        changed = self._changed(score)
        sheet_choices, lesson_order = kept_choices(student.sheets), student.lesson_order

        def work(progress: Progress, cancelled: CancelCheck) -> list[PackedLoop]:
            plan = first_lesson(score, lesson_order=lesson_order)
            films = films_of(score, document.clip, choices, document.track, plan) if film else {}
            return write_pack(
                path, score, document.clip, choices, track=document.track, films=films, student=name,
                changed=changed, naming=naming,
                sheet=lambda _progress, stop: sheet_pdf(score, sheet_choices, student=name, cancelled=stop),
                plan=plan, progress=progress, cancelled=cancelled,
            )  # fmt: skip

        def done(loops: list[PackedLoop]) -> None:
            phrases = len({loop.phrase.id for loop in loops})
            self._note_given(phrases)
            place = Path(path)
            text = f"A pack of {many(phrases, 'phrase')}, {many(len(loops), 'loop')}: “{place.name}” in {place.parent}."
            if document.clip is not None and self._settings.tell_once("rights"):
                text = f"{text} {RIGHTS}"
            self._shell.notice(text)

        self._shell.run_job("Making the pack", work, done, document_id=document.id)

    def _changed(self, score: Score) -> list[str]:
        """What is another since the student got this solo last."""
        book, student, home = self._ledger.book, self._ledger.student, self._session.document.id
        mine = (
            sent for sent in book.sent_to(student.id) if book.practice_id(sent.document_id) == book.practice_id(home)
        )
        last = next(mine, None)
        if last is None or student.id == NOBODY_ID:
            return []
        return changed_words(score_from_data(dict(last.music)), score, self._naming)

    def _note_given(self, phrases: int) -> None:
        """Note in the ledger what was given, and to whom."""
        document = self._session.document
        title = f"{document.score.title or 'Untitled'}: practice pack of {many(phrases, 'phrase')}"
        self._ledger.give_out("Give a pack out", document, title)
