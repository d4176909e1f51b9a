"""The tables of the lick catalogue; a change here needs a migration of its own."""

from sqlalchemy import JSON, ForeignKey, LargeBinary
from sqlalchemy.orm import Mapped, deferred, mapped_column, relationship

from notcher.core.ledger.base import Base


class SourceRow(Base):
    """A document that phrases were gathered from. modified_ns, size: of its file when it was read."""

    __tablename__ = "sources"

    id: Mapped[int] = mapped_column(primary_key=True)
    path: Mapped[str] = mapped_column(unique=True)
    document_id: Mapped[str] = mapped_column(index=True)
    title: Mapped[str] = mapped_column(default="")
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
    phrase_id: Mapped[str]
    name: Mapped[str]
    start_s: Mapped[float]
    end_s: Mapped[float]
    count: Mapped[int]
    tonic: Mapped[int] = mapped_column(index=True)
    scale: Mapped[str] = mapped_column(index=True)
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
