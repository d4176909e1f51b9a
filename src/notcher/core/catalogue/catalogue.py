"""The lick catalogue: phrases gathered from all documents of a folder, found by words or by example."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from sqlalchemy import delete, func, not_, or_, select
from sqlalchemy.orm import Session, undefer
from sqlalchemy.sql import ColumnElement

from notcher.core.catalogue.features import MelodicLine, alone, features, line_of
from notcher.core.catalogue.query import AROUND, LEGATO, Query, minor_or_major
from notcher.core.catalogue.similar import distances, shortlist
from notcher.core.catalogue.tables import PhraseRow, SourceRow
from notcher.core.errors import CancelCheck, Cancelled, Progress, never_cancelled, no_progress
from notcher.core.formats import FileError, read_score
from notcher.core.formats.document.models import score_from_data, to_data
from notcher.core.ledger.store import Ledger
from notcher.core.patterns import phrases_of
from notcher.core.score import Score
from notcher.core.score.score import with_derived_ids
from notcher.core.theory import ranked_keys

MOST_FOUND = 200  # more is read by nobody
ALIKE = 0.45  # what is less alike is nothing like it


@dataclass(frozen=True, slots=True)
class Gathered:
    """What came of looking through a folder. unreadable: file names, with what is wrong with each."""

    documents: int = 0
    phrases: int = 0
    unchanged: int = 0
    gone: int = 0
    unreadable: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, slots=True)
class FoundPhrase:
    """One phrase of the catalogue. distance: to the example, 0 the same; None where there was none."""

    id: int
    path: Path
    phrase_id: str
    title: str
    name: str
    start_s: float
    count: int
    tonic: int
    scale: str
    hand_fret: int
    notes_per_s: float
    techniques: tuple[str, ...]
    chords: tuple[str, ...]
    distance: float | None = None


class Catalogue:
    """Looks phrases up in a ledger."""

    def __init__(self, ledger: Ledger) -> None:
        self.ledger = ledger

    # --- gathering ---
    def gather(
        self, folder: Path, *, progress: Progress = no_progress, cancelled: CancelCheck = never_cancelled
    ) -> Gathered:
        """Take in all documents under a folder; what has not changed since is not read again.

        Raises: LedgerError; Cancelled (what was read before that stays).
        """
        files = sorted(file for file in folder.rglob("*.notch") if file.is_file())
        with self.ledger.session() as session:
            stats = {row.path: (row.modified_ns, row.size) for row in session.scalars(select(SourceRow))}
        result = Gathered()
        for number, file in enumerate(files):
            if cancelled():
                raise Cancelled
            progress(number / len(files))
            stat = file.stat()
            if stats.get(str(file)) == (stat.st_mtime_ns, stat.st_size):
                result = replace(result, unchanged=result.unchanged + 1)
                continue
            try:
                document_id, score = read_score(file)
            except (FileError, OSError) as problem:
                result = replace(result, unreadable=(*result.unreadable, (file.name, str(problem))))
                continue
            count = self.put(file, document_id, score, modified_ns=stat.st_mtime_ns, size=stat.st_size)
            result = replace(result, documents=result.documents + 1, phrases=result.phrases + count)
        here = {str(file) for file in files}
        removed = [path for path in stats if Path(path).is_relative_to(folder) and path not in here]
        if removed:
            with self.ledger.session() as session:
                for path in removed:
                    session.execute(delete(SourceRow).where(SourceRow.path == path))
        return replace(result, gone=len(removed))

    def put(self, file: Path, document_id: str, score: Score, *, modified_ns: int, size: int) -> int:
        """Take in the phrases of one document, in place of what was known of it, and return how many.

        Raises: LedgerError.
        """
        if not score.phrases:
            score = with_derived_ids(replace(score, phrases=phrases_of(score)))
        rows = phrase_rows(score)
        with self.ledger.session() as session:
            session.execute(delete(SourceRow).where(SourceRow.path == str(file)))
            source = SourceRow(
                path=str(file), document_id=document_id, title=score.title, modified_ns=modified_ns, size=size
            )
            source.phrases = rows
            session.add(source)
        return len(rows)

    @property
    def size(self) -> int:
        """How many phrases there are. Raises: LedgerError."""
        with self.ledger.session() as session:
            return session.scalar(select(func.count()).select_from(PhraseRow)) or 0

    # --- finding ---
    def search(self, query: Query, *, most: int = MOST_FOUND) -> list[FoundPhrase]:
        """Return the phrases that are as asked, those with the most notes first. Raises: LedgerError."""
        with self.ledger.session() as session:
            statement = select(PhraseRow, SourceRow).join(SourceRow).where(*_conditions(query))
            rows = session.execute(statement.order_by(PhraseRow.count.desc(), PhraseRow.id).limit(most))
            return [_found(phrase, source) for phrase, source in rows]

    def like(self, example: Score, query: Query | None = None, *, most: int = MOST_FOUND) -> list[FoundPhrase]:
        """Return the phrases that are like one, the likest first, across keys, tempos and tunings.

        query: what else is asked of them. Raises: LedgerError.
        """
        wanted = line_of(example)
        with self.ledger.session() as session:
            rows = session.execute(
                select(PhraseRow.id, PhraseRow.steps, PhraseRow.lengths)
                .join(SourceRow)
                .where(*_conditions(query or Query()))
                .order_by(PhraseRow.id)
            ).all()
            lines = [_line(steps, lengths) for _, steps, lengths in rows]
            chosen = shortlist(wanted, lines)
            apart = distances(wanted, [lines[at] for at in chosen])
            order = [at for at in np.argsort(apart, kind="stable")[:most].tolist() if apart[at] <= ALIKE]
            ids = {rows[int(chosen[at])][0]: float(apart[at]) for at in order}
            rows_by_id = _by_id(session, list(ids))
        return [replace(rows_by_id[key], distance=far) for key, far in ids.items() if key in rows_by_id]

    def music(self, phrase_ids: Sequence[int]) -> dict[int, Score]:
        """Return phrases as scores of their own, by the catalogue's ids. Raises: LedgerError."""
        with self.ledger.session() as session:
            rows = session.scalars(
                select(PhraseRow).where(PhraseRow.id.in_(phrase_ids)).options(undefer(PhraseRow.music))
            )
            return {row.id: score_from_data(row.music) for row in rows}


def phrase_rows(score: Score) -> list[PhraseRow]:
    """Return the rows of a score's phrases; those without notes have none."""
    keys = ranked_keys(score)
    rows = []
    for phrase in score.phrases:
        if not score.notes_of(phrase):
            continue
        facts = features(score, phrase, keys)
        rows.append(
            PhraseRow(
                phrase_id=phrase.id, name=phrase.name, start_s=phrase.start_s, end_s=phrase.end_s,
                count=len(score.notes_of(phrase)), tonic=facts.key.tonic, scale=facts.key.scale,
                hand_fret=facts.hand_fret, notes_per_s=facts.notes_per_s, degrees=_words(facts.degrees),
                techniques=_words(facts.techniques), functions=_words(facts.functions), chords=_words(facts.chords),
                steps=facts.line.steps.astype(np.int8).tobytes(),
                lengths=facts.line.lengths.astype(np.float32).tobytes(),
                music=to_data(alone(score, phrase)),
            )
        )  # fmt: skip
    return rows


def _words(names: Sequence[str] | frozenset[str]) -> str:
    ordered = names if isinstance(names, tuple) else sorted(names)
    return f" {' '.join(ordered)} " if ordered else " "


def _line(steps: bytes, lengths: bytes) -> MelodicLine:
    return MelodicLine(
        np.frombuffer(steps, dtype=np.int8).astype(np.int64), np.frombuffer(lengths, dtype=np.float32).astype(float)
    )


def _conditions(query: Query) -> list[ColumnElement[bool]]:
    """What a query asks of a row, in SQL's terms."""
    conditions: list[ColumnElement[bool]] = []
    if query.tonic is not None:
        conditions.append(PhraseRow.tonic == query.tonic)
    if query.scale:
        conditions.append(PhraseRow.scale.in_(sorted(minor_or_major(query.scale))))
    conditions += [PhraseRow.degrees.contains(f" {degree} ") for degree in sorted(query.degrees)]
    conditions += [PhraseRow.techniques.contains(f" {name} ") for name in sorted(query.techniques)]
    conditions += [not_(PhraseRow.techniques.contains(f" {name} ")) for name in sorted(query.without)]
    if query.legato:
        conditions.append(or_(*(PhraseRow.techniques.contains(f" {name} ") for name in sorted(LEGATO))))
    if query.fret is not None:
        conditions.append(PhraseRow.hand_fret.between(query.fret - AROUND, query.fret + AROUND))
    if query.least_per_s is not None:
        conditions.append(PhraseRow.notes_per_s >= query.least_per_s)
    if query.most_per_s is not None:
        conditions.append(PhraseRow.notes_per_s <= query.most_per_s)
    if query.functions:
        conditions.append(or_(*(PhraseRow.functions.contains(f" {root} ") for root in sorted(query.functions))))
    if query.chord:
        conditions.append(PhraseRow.chords.contains(f" {query.chord} ", autoescape=True))
    for word in query.text:
        conditions.append(
            or_(PhraseRow.name.icontains(word, autoescape=True), SourceRow.title.icontains(word, autoescape=True))
        )
    return conditions


def _by_id(session: Session, ids: Sequence[int]) -> dict[int, FoundPhrase]:
    rows = session.execute(select(PhraseRow, SourceRow).join(SourceRow).where(PhraseRow.id.in_(ids)))
    return {phrase.id: _found(phrase, source) for phrase, source in rows}


def _found(phrase: PhraseRow, source: SourceRow) -> FoundPhrase:
    return FoundPhrase(
        phrase.id, Path(source.path), phrase.phrase_id, source.title, phrase.name, phrase.start_s, phrase.count,
        phrase.tonic, phrase.scale, phrase.hand_fret, phrase.notes_per_s, tuple(phrase.techniques.split()),
        tuple(phrase.chords.split()),
    )  # fmt: skip
