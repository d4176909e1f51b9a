"""The tables of the ledger, as the migrations make them: a change here needs one of its own."""

from sqlalchemy import JSON, ForeignKey, Index, LargeBinary, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, deferred, mapped_column, relationship


class Base(DeclarativeBase):
    """All tables of the ledger."""


class SourceRow(Base):
    """A document that phrases were gathered from. modified_ns, size: of its file when it was read."""

    __tablename__ = "sources"

    id: Mapped[int] = mapped_column(primary_key=True)
    path: Mapped[str] = mapped_column(String(4096), unique=True)
    document_id: Mapped[str] = mapped_column(String(64), index=True)
    title: Mapped[str] = mapped_column(String(1000), default="")
    modified_ns: Mapped[int]
    size: Mapped[int]
    phrases: Mapped[list["PhraseRow"]] = relationship(back_populates="source", cascade="all, delete-orphan")


class PhraseRow(Base):
    """One phrase of a document, and what it is found by.

    tonic, scale: as it sounds, 0 = C. hand_fret: under the first finger. notes_per_s: from the first onset to the last.
    degrees, techniques, functions: words with a space on each side of each, so that one is found whole. chords: the
    names over it. steps: int8, semitones from note to note of what is reached. lengths: float32, seconds from onset to
    onset. music: the score of the phrase alone, as `formats.models` says it.
    """

    __tablename__ = "phrases"

    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[int] = mapped_column(ForeignKey("sources.id", ondelete="CASCADE"), index=True)
    phrase_id: Mapped[str] = mapped_column(String(64))
    name: Mapped[str] = mapped_column(String(1000))
    start_s: Mapped[float]
    end_s: Mapped[float]
    count: Mapped[int]
    tonic: Mapped[int] = mapped_column(index=True)
    scale: Mapped[str] = mapped_column(String(40), index=True)
    hand_fret: Mapped[int]
    notes_per_s: Mapped[float]
    degrees: Mapped[str]
    techniques: Mapped[str]
    functions: Mapped[str]
    chords: Mapped[str]
    steps: Mapped[bytes] = mapped_column(LargeBinary)
    lengths: Mapped[bytes] = mapped_column(LargeBinary)
    music: Mapped[dict] = deferred(mapped_column(JSON, nullable=False))  # type: ignore[type-arg]
    source: Mapped[SourceRow] = relationship(back_populates="phrases")


class StudentRow(Base):
    """A student. gone_at: when deleted, ISO 8601; kept until the program ends, so that it can be undone."""

    __tablename__ = "students"

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    guitar: Mapped[str] = mapped_column(String(200), default="")
    tuning: Mapped[str] = mapped_column(String(200), default="")
    string_set: Mapped[str] = mapped_column(String(100), default="")
    naming: Mapped[str] = mapped_column(String(100), default="")
    school: Mapped[str] = mapped_column(String(40), default="")
    notes: Mapped[str] = mapped_column(default="")
    scale_mm: Mapped[float] = mapped_column(default=0.0, server_default="0")
    sheets: Mapped[str] = mapped_column(Text, default="", server_default="")
    gone_at: Mapped[str | None] = mapped_column(String(40), default=None)


class RequestRow(Base):
    """A solo that somebody asked for. estimated_h, spent_h: hours. note_count: of the solo, 0 while it is not known."""

    __tablename__ = "requests"

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    student_id: Mapped[str] = mapped_column(ForeignKey("students.id", ondelete="CASCADE"))
    title: Mapped[str] = mapped_column(String(300))
    version: Mapped[str] = mapped_column(String(300), default="")
    stretch: Mapped[str] = mapped_column(String(300), default="")
    sound: Mapped[str] = mapped_column(String(300), default="")
    asked_at: Mapped[str] = mapped_column(String(40))
    due: Mapped[str] = mapped_column(String(40), default="")
    document_id: Mapped[str] = mapped_column(String(64), default="")
    estimated_h: Mapped[float | None] = mapped_column(default=None)
    spent_h: Mapped[float] = mapped_column(default=0.0)
    note_count: Mapped[int] = mapped_column(default=0)
    done_at: Mapped[str] = mapped_column(String(40), default="")


class LessonRow(Base):
    """A lesson, planned or held. plan: as `notcher plan` prints it. did: what was done, in the instructor's words."""

    __tablename__ = "lessons"

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    student_id: Mapped[str] = mapped_column(ForeignKey("students.id", ondelete="CASCADE"))
    document_id: Mapped[str] = mapped_column(String(64), default="")
    planned_for: Mapped[str] = mapped_column(String(40), default="")
    held_at: Mapped[str] = mapped_column(String(40), default="")
    minutes: Mapped[float] = mapped_column(default=0.0)
    plan: Mapped[dict] = mapped_column(JSON, default=dict)  # type: ignore[type-arg]
    did: Mapped[str] = mapped_column(default="")


class PassRow(Base):
    """One pass through a phrase, or a join: how it went at which pace. phrases: ids with a space between."""

    __tablename__ = "passes"
    __table_args__ = (Index("passes_by_student", "student_id", "document_id", "played_at"),)

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    student_id: Mapped[str] = mapped_column(ForeignKey("students.id", ondelete="CASCADE"))
    lesson_id: Mapped[str | None] = mapped_column(ForeignKey("lessons.id", ondelete="SET NULL"), default=None)
    document_id: Mapped[str] = mapped_column(String(64))
    phrases: Mapped[str] = mapped_column(String(2000))
    pace: Mapped[float]
    result: Mapped[str] = mapped_column(String(20))
    played_at: Mapped[str] = mapped_column(String(40))
    take_id: Mapped[str] = mapped_column(String(64), default="")


class RecordingRow(Base):
    """A recording by its content, so that a moved file is found again."""

    __tablename__ = "recordings"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    path: Mapped[str] = mapped_column(String(4096))
    document_id: Mapped[str] = mapped_column(String(64), default="")
    seconds: Mapped[float] = mapped_column(default=0.0)
    size: Mapped[int] = mapped_column(default=0, server_default="0")


class DocumentRow(Base):
    """A document that was open here. practice_id: under which its practice is kept; phrases: their ids and names."""

    __tablename__ = "documents"

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    practice_id: Mapped[str] = mapped_column(String(64), index=True)
    title: Mapped[str] = mapped_column(String(1000), default="")
    path: Mapped[str] = mapped_column(String(4096), default="")
    note_count: Mapped[int] = mapped_column(default=0)
    phrases: Mapped[list] = mapped_column(JSON, default=list)  # type: ignore[type-arg]


class TakeRow(Base):
    """A take of a student; its sound lies beside the ledger. The rest as in `proving.Take`."""

    __tablename__ = "takes"

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    student_id: Mapped[str] = mapped_column(ForeignKey("students.id", ondelete="CASCADE"), index=True)
    document_id: Mapped[str] = mapped_column(String(64))
    name: Mapped[str] = mapped_column(String(1000))
    phrases: Mapped[str] = mapped_column(String(2000))
    start_s: Mapped[float]
    end_s: Mapped[float]
    pace: Mapped[float]
    along: Mapped[str] = mapped_column(String(40))
    begin_s: Mapped[float | None] = mapped_column(default=None)
    made_at: Mapped[str] = mapped_column(String(40), default="")
    gone_at: Mapped[str | None] = mapped_column(String(40), default=None)


class WishRow(Base):
    """What is wanted otherwise in the lessons of one student on one solo. id: both, with a space between."""

    __tablename__ = "wishes"

    id: Mapped[str] = mapped_column(String(130), primary_key=True)
    student_id: Mapped[str] = mapped_column(ForeignKey("students.id", ondelete="CASCADE"))
    document_id: Mapped[str] = mapped_column(String(64))
    wishes: Mapped[dict] = mapped_column(JSON, default=dict)  # type: ignore[type-arg]


class SentRow(Base):
    """A state of a transcription that a student was given. music: the score, as `formats.models` says it."""

    __tablename__ = "sent"

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    student_id: Mapped[str] = mapped_column(ForeignKey("students.id", ondelete="CASCADE"))
    document_id: Mapped[str] = mapped_column(String(64))
    title: Mapped[str] = mapped_column(String(1000), default="")
    sent_at: Mapped[str] = mapped_column(String(40))
    music: Mapped[dict] = mapped_column(JSON, default=dict)  # type: ignore[type-arg]


class MovedRow(Base):
    """The id of a pass or a take that came in from a document, so that it comes once."""

    __tablename__ = "moved"

    id: Mapped[str] = mapped_column(String(64), primary_key=True)
