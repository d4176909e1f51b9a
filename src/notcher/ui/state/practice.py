"""What the chosen student has done of the open document: passes, takes, and what is wanted otherwise in its lessons."""

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from notcher.core.errors import readable
from notcher.core.ledger import NOBODY_ID, KeptTake, KnownDocument, KnownRecording, LoggedPass, RowChange, Wished
from notcher.core.ledger.files import content_id
from notcher.core.proving import Result, Take
from notcher.core.sound import Clip
from notcher.core.teaching import Wishes, due_phrases, wishes_data, wishes_of
from notcher.ui.state.ledger_state import LedgerState
from notcher.ui.state.session import Session


class Practice(QObject):
    """Stands between the open document and the ledger."""

    changed = pyqtSignal()
    notice = pyqtSignal(str)
    take_stored = pyqtSignal(str)  # a take, with its sound, is in the ledger

    def __init__(
        self, session: Session, ledger: LedgerState, clock: Callable[[], datetime], parent: QObject | None = None
    ) -> None:
        """clock: what the time is."""
        super().__init__(parent)
        self._session, self.ledger, self._clock = session, ledger, clock
        self._clips: dict[str, Clip] = {}  # the sounds of takes that were made or heard in this sitting
        self._shown: tuple[object, ...] = ()
        ledger.changed.connect(self._on_ledger_changed)
        ledger.opened.connect(self._on_ledger_opened)
        session.opened.connect(self._on_opened)
        session.copied.connect(self._on_copied)

    @property
    def now(self) -> str:
        """This moment as it is kept: local time, to the millisecond, so that passes keep their order."""
        return self._clock().isoformat(timespec="milliseconds")

    # --- what there is ---
    @property
    def _document_id(self) -> str:
        """Under which the practice of the open document is kept."""
        return self.ledger.book.practice_id(self._session.document.id)

    @property
    def passes(self) -> list[LoggedPass]:
        """The chosen student's passes through the open solo, in the order they were played."""
        return self.ledger.book.passes_of(self.ledger.student.id, self._session.document.id)

    @property
    def takes(self) -> list[Take]:
        """The chosen student's takes of the open solo."""
        return [stored.take for stored in self.ledger.book.takes_of(self.ledger.student.id, self._session.document.id)]

    @property
    def due(self) -> dict[str, float]:
        """What of the open solo is to be repeated by today: the pace it was played at last, by the phrase's id."""
        return due_phrases(self.passes, self._clock().date())

    @property
    def wishes(self) -> Wishes:
        return wishes_of(self.ledger.book.wishes_of(self.ledger.student.id, self._session.document.id).wishes)

    def _on_ledger_changed(self) -> None:
        now_shown = (self.ledger.student.id, self._document_id, self.ledger.book.passes, self.ledger.book.takes,
                     self.ledger.book.wishes)  # fmt: skip
        shown_before, self._shown = self._shown, now_shown
        if len(shown_before) != len(now_shown) or any(
            a is not b and a != b for a, b in zip(shown_before, now_shown, strict=True)
        ):
            self.changed.emit()

    # --- what is done ---
    def log(self, phrases: tuple[str, ...], pace: float, result: Result, *, take_id: str = "") -> None:
        """Keep how a pass went."""
        played = LoggedPass(
            self.ledger.student.id, self._document_id, phrases, pace, result, self.now, take_id, self.lesson_id
        )
        self.ledger.edit(f"Mark {result}", RowChange(None, played))

    @property
    def lesson_id(self) -> str | None:
        """The lesson of today that is planned on the open solo, for the chosen student."""
        today = self.now[:10]
        texts = [
            lesson.id
            for lesson in self.ledger.book.lessons_of(self.ledger.student.id)
            if today in (lesson.planned_for[:10], lesson.held_at[:10])
            and self.ledger.book.practice_id(lesson.document_id) == self._document_id
        ]
        return texts[-1] if texts else None

    def take_back(self, phrases: tuple[str, ...], paces: Callable[[float], bool]) -> None:
        """Take the last pass through a stretch away. paces: which ones its cell is about."""
        logged_passes = [played for played in self.passes if played.phrases == phrases and paces(played.pace)]
        if logged_passes:
            self.ledger.edit("Take back a mark", RowChange(logged_passes[-1], None))

    def add_take(self, take: Take, clip: Clip) -> None:
        """Keep a take with its sound; it is its student's, or nobody's where that one is gone."""
        self._clips[take.id] = clip
        present = {student.id for student in self.ledger.book.present}
        student_id = take.student if take.student in present else NOBODY_ID
        stored = KeptTake(student_id, self._document_id, replace(take, student=""))
        self.ledger.edit(f"Keep {take.name}", RowChange(None, stored), sounds={take.id: clip})

        def kept_now() -> None:
            if self.ledger.holds_sound(take.id):
                self.take_stored.emit(take.id)

        self.ledger.in_turn(kept_now)  # after the take itself

    def remove_take(self, take_id: str) -> None:
        """Throw a take away; until the program ends it can be brought back."""
        stored = self.ledger.book.takes.get(take_id)
        if stored is not None:
            self.ledger.edit(f"Throw {stored.take.name} away", RowChange(stored, replace(stored, gone_at=self.now)))

    def with_clip(self, take_id: str, then: Callable[[Clip], None], failed: Callable[[Exception], None]) -> None:
        """Go on with the sound of a take, once it was read. failed: told why it cannot be read."""
        if take_id in self._clips:
            then(self._clips[take_id])
            return

        def done(clip: Clip) -> None:
            self._clips[take_id] = clip
            then(clip)

        self.ledger.ask(lambda record: record.sound(take_id), done, failed)

    def wish(self, name: str, wishes: Wishes) -> None:
        """Want steps of the lesson otherwise, as a step that can be undone."""
        self.ledger.put(name, Wished(self.ledger.student.id, self._document_id, wishes_data(wishes)))

    # --- documents ---
    def _on_opened(self) -> None:
        self._clips.clear()
        if self.ledger.ledger is not None:
            self._on_ledger_opened()
        self._on_ledger_changed()

    def _on_ledger_opened(self) -> None:
        """Choose who practised the open solo last."""
        session, book = self._session, self.ledger.book
        if session.score.notes:
            self.note_document()
            self._note_recording()
            if student_id := book.last_student(session.document.id):
                self.ledger.choose(student_id)

    def note_document(self) -> None:
        """Keep what the open document is called and where it lies; nothing while the ledger is not open."""
        session, score = self._session, self._session.document.score
        if self.ledger.ledger is None or not score.notes:
            return
        tempo_known = score.beat_map.known
        phrases = tuple(
            {
                "id": phrase.id,
                "name": phrase.name,
                "bpm": round(float(score.beat_map.tempo_at(phrase.start_s)), 1) if tempo_known else None,
            }
            for phrase in score.phrases
        )
        path = "" if session.path is None else _storable(session.path.absolute())
        known_as = KnownDocument(session.document.id, self._document_id, score.title, path, len(score.notes), phrases)
        self.ledger.note(known_as)

    def _note_recording(self) -> None:
        """Keep by its content which recording the open document was heard from; say so if it is another one's too."""
        session = self._session
        source, clip, home, document_id = session.source, session.document.clip, self._document_id, session.document.id
        if source is None or clip is None:
            return

        def work(_record: object) -> KnownRecording:
            return KnownRecording(content_id(source), _storable(source), home, clip.duration_s, source.stat().st_size)

        def done(recording: KnownRecording) -> None:
            stored = self.ledger.book.recordings.get(recording.id)
            solo = None if stored is None else self.ledger.book.solo(stored.document_id)
            if solo is not None and solo.path and solo.practice_id != home and session.document.id == document_id:
                self.notice.emit(
                    f"This recording was written down before, as “{solo.title or 'Untitled'}”: {solo.path}"
                )
                return  # it stays that one's
            self.ledger.note(recording)

        self.ledger.ask(work, done, lambda _problem: None)  # a file that is gone by now is no news

    def _on_copied(self, before: str, after: str) -> None:
        """A copy is practised as what it is a copy of."""
        score = self._session.document.score

        def note(_none: object) -> None:
            home = self.ledger.book.practice_id(before)
            self.ledger.note(KnownDocument(after, home, score.title, "", len(score.notes)))

        self.ledger.ask(lambda _record: None, note)


def _storable(path: Path) -> str:
    """A path as the record holds it; empty for one that is no UTF-8: its file is found by its content or its id."""
    return str(path) if readable(str(path)) == str(path) else ""
