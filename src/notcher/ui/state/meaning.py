"""What the open solo means: what comes again, and what its notes are to the chords; worked out beside the window."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from notcher.core.errors import CancelCheck, Progress
from notcher.core.neck import ScaleBox, box_of, corrected_elsewhere
from notcher.core.patterns import (
    NO_PATTERNS,
    Kind,
    Occurrence,
    Pattern,
    Patterns,
    ProposedLine,
    lines_of,
    patterns,
    phrase_marks,
    sections_of,
)
from notcher.core.score import EMPTY_SCORE, Score
from notcher.core.theory import LikelyScale, Target, ranked_keys, scale_of, targets
from notcher.core.words import boundary_words, many, section_words
from notcher.ui.state.jobs import Jobs
from notcher.ui.state.session import Session

WAIT_MS = 250  # a run of edits is analysed once
Partner = tuple[str, int | None, int | None, int | None]
"""A note that a shape says is another one moved: its id, and by how many frets, strings and semitones."""


@dataclass(frozen=True)
class FoundMeaning:
    """All that was read out of one score. boxes, marks: by the phrase's id; phrases with the same mark are alike."""

    patterns: Patterns = NO_PATTERNS
    targets: tuple[Target, ...] = ()
    keys: tuple[LikelyScale, ...] = ()
    boxes: dict[str, ScaleBox] = field(default_factory=dict)
    lines: tuple[ProposedLine, ...] = ()
    marks: dict[str, str] = field(default_factory=dict)


NOTHING_FOUND = FoundMeaning()


class Meaning(QObject):
    """Follows the session's score; what is shown belongs to `score`, which may be a moment older than the session's."""

    changed = pyqtSignal()

    def __init__(self, session: Session, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._jobs = session, jobs
        self.score: Score = EMPTY_SCORE
        self._found = NOTHING_FOUND
        self._partners: dict[str, tuple[Partner, ...]] = {}
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(WAIT_MS)
        self._wait.timeout.connect(self._read)
        session.opened.connect(self._on_opened)
        session.score_changed.connect(self._wait.start)

    def stop(self) -> None:
        """Read nothing more; the window closes."""
        self._wait.stop()

    @property
    def patterns(self) -> Patterns:
        return self._found.patterns

    @property
    def targets(self) -> tuple[Target, ...]:
        return self._found.targets

    @property
    def keys(self) -> tuple[LikelyScale, ...]:
        return self._found.keys

    @property
    def boxes(self) -> dict[str, ScaleBox]:
        return self._found.boxes

    @property
    def lines(self) -> tuple[ProposedLine, ...]:
        return self._found.lines

    @property
    def marks(self) -> dict[str, str]:
        return self._found.marks

    @property
    def shapes(self) -> tuple[Pattern, ...]:
        """All shapes by when they first come; those that save nothing last."""
        result = self.patterns.shapes
        return tuple(sorted(result, key=lambda shape: (shape.kind is Kind.RHYTHM, shape.occurrences[0].first)))

    def partners(self, note_id: str) -> tuple[Partner, ...]:
        """Return the notes that are another one where its lick comes again, also after one of them was corrected."""
        return self._partners.get(note_id, ())

    def elsewhere_need(self) -> str:
        """Why the selected note cannot be repeated elsewhere; empty when it can."""
        note = self._session.note
        if note is None:
            return "No note is selected: click one, or walk to it by the arrows."
        return "" if self.partners(note.id) else "This note is of no lick that comes again."

    def correct_elsewhere(self) -> None:
        """Make the notes that are the selected one in other playings of its lick what it is, as one step."""
        session, note = self._session, self._session.note
        if note is None:
            return
        score = session.score
        places: dict[str, Partner] = {}
        for partner in self.partners(note.id):
            places.setdefault(partner[0], partner)
        after = corrected_elsewhere(score, note.id, tuple(places.values()))
        if after == score:
            session.notice.emit("It is the same there already.")
        else:
            session.edit(f"Do the same in {many(len(places), 'other note')}", after)

    def sections_need(self) -> str:
        """Why no sections can be proposed; empty when they can."""
        if len(self._session.score.phrases) < 2:
            return "Sections are laid over phrases, and there are not two of them yet."
        current = self.score is self._session.score
        return "" if current else "What comes again is still being looked for: try again in a moment."

    def propose_sections(self) -> None:
        """Lay sections over the phrases, in place of those that stand there, and say which are one again."""
        session = self._session
        proposed_sections = sections_of(self.score, self.patterns)
        sections = tuple(proposed.section for proposed in proposed_sections)
        session.edit("Propose sections", replace(session.score, sections=sections))
        texts = [words for words in (boundary_words(proposed_sections), section_words(proposed_sections)) if words]
        session.notice.emit(
            f"{many(len(proposed_sections), 'section')} proposed{': ' if texts else ''}{'; '.join(texts)}."
        )

    def _on_opened(self) -> None:
        self._jobs.cancel("meaning")
        self._partners = {}
        self._take(EMPTY_SCORE, NOTHING_FOUND)

    def _read(self) -> None:
        score = self._session.score

        def work(_progress: Progress, cancelled: CancelCheck) -> FoundMeaning:
            keys = tuple(ranked_keys(score))
            found_patterns = patterns(score, cancelled=cancelled)
            boxes, marks = boxes_of(score, keys), phrase_marks(score, found_patterns)
            return FoundMeaning(found_patterns, targets(score), keys, boxes, lines_of(score), marks)

        self._jobs.start(
            "meaning",
            work,
            finished=lambda found: self._take(score, found),
            document_id=self._session.document.id,
        )

    def _take(self, score: Score, meaning: FoundMeaning) -> None:
        self.score, self._found = score, meaning
        self._partners = self._partners | partners_of(score, self.patterns)
        self.changed.emit()


def boxes_of(score: Score, keys: Sequence[LikelyScale]) -> dict[str, ScaleBox]:
    """Return the box that each phrase is played in, by its id; a phrase that is in none has none."""
    scale_boxes = {}
    for phrase in score.phrases:
        notes = [score.notes[at] for at in score.notes_of(phrase)]
        scale = scale_of(score, notes, keys)
        box = box_of(notes, scale, score.tuning) if scale is not None and notes else None
        if box is not None:
            scale_boxes[phrase.id] = box
    return scale_boxes


def partners_of(score: Score, found_patterns: Patterns) -> dict[str, tuple[Partner, ...]]:
    """Return for each note by its id all notes that it is where its lick comes again, and how far they are moved."""
    by_note: dict[str, list[Partner]] = {}
    for shape in found_patterns.shapes:
        if shape.kind in (Kind.RHYTHM, Kind.SEQUENCE):  # other notes
            continue
        for here in shape.occurrences:
            places = dict(here.pairs)
            for there in shape.occurrences:
                if there is here:
                    continue
                for common, other in there.pairs:
                    if common in places:
                        moved = tuple(_apart(a, b) for a, b in zip(_vector(there), _vector(here), strict=True))
                        by_note.setdefault(score.notes[places[common]].id, []).append((score.notes[other].id, *moved))  # type: ignore[arg-type]
    return {note_id: tuple(dict.fromkeys(partners)) for note_id, partners in by_note.items()}


def _vector(occurrence: Occurrence) -> tuple[int | None, int | None, int | None]:
    return occurrence.frets, occurrence.strings, occurrence.semitones


def _apart(there: int | None, here: int | None) -> int | None:
    return None if there is None or here is None else there - here
