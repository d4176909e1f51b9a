"""The lick catalogue: what is gathered, found by words, found by example; and what a file may not do to it.

SQLite's own integrity check says whether the file is whole (sqlite.org, "PRAGMA integrity_check"). Distances are held
against every way of making one row of the other; keys and degrees against plain arithmetic on the frets.
"""

import sqlite3
import stat
from dataclasses import replace
from itertools import product
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from notcher.core.catalogue.catalogue import Catalogue
from notcher.core.catalogue.features import MelodicLine
from notcher.core.catalogue.query import Query, query_from_text
from notcher.core.catalogue.similar import ALONE, FAR_STEP, STEP_OFF, distances, shortlist
from notcher.core.errors import Cancelled
from notcher.core.formats import Document, write_document
from notcher.core.ledger import LedgerError
from notcher.core.ledger.store import Ledger
from notcher.core.score import Attack, BeatMap, Chord, Note, Phrase, Score, Tuning, bent_curve, with_times
from notcher.demo import demo_score

A_MINOR = [(1, 8), (1, 5), (2, 8), (2, 5), (3, 7), (3, 5), (4, 7)]  # A minor pentatonic around fret 5
E_MAJOR = [(3, 9), (2, 9), (1, 7), (1, 9), (1, 11), (1, 12), (2, 12), (3, 11)]


def lick(places: list[tuple[int, int]], *, step_s: float = 0.25, chord: str = "Am", name: str = "Lick") -> Score:
    notes = [Note(0.5 + step_s * at, 0.5 + step_s * (at + 0.9), *place) for at, place in enumerate(places)]
    end_s = notes[-1].offset_s + 0.1
    return Score(
        tuple(notes), beat_map=BeatMap.steady(120, 0.5), chords=(Chord(0.0, chord),), title=f"{name} solo",
        phrases=(Phrase(0.4, end_s, name),),
    )  # fmt: skip


@pytest.fixture
def catalogue(tmp_path: Path) -> Catalogue:
    return Catalogue(Ledger(tmp_path / "data" / "ledger.sqlite"))


def kept(folder: Path, name: str, score: Score) -> Path:
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{name}.notch"
    write_document(Document(score), path)
    return path


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    solos = tmp_path / "solos"
    kept(solos, "slow", lick(A_MINOR, step_s=0.5, name="Slow walk"))
    kept(solos / "more", "fast", lick([*A_MINOR, *A_MINOR[::-1]], step_s=0.1, chord="Dm", name="Quick walk"))
    kept(solos, "major", lick(E_MAJOR, chord="E", name="Bright"))
    bent = lick(A_MINOR, name="Weeping")
    kept(
        solos,
        "bent",
        bent.with_note(bent.notes[2].id, curve=bent_curve(2, bent.notes[2].duration_s), attack=Attack.PICK),
    )
    return solos


def names(found: list) -> set[str]:
    return {one.name for one in found}


# --- gathering ---
def test_a_folder_is_gathered_once_and_then_only_what_changed(catalogue: Catalogue, folder: Path) -> None:
    first = catalogue.gather(folder)
    assert (first.documents, first.phrases, first.unchanged, first.unreadable) == (4, 4, 0, ())
    assert catalogue.size == 4
    assert catalogue.gather(folder).unchanged == 4
    kept(folder, "major", lick(E_MAJOR, chord="E", name="Brighter"))
    (folder / "slow.notch").unlink()
    again = catalogue.gather(folder)
    assert (again.documents, again.unchanged, again.gone) == (1, 2, 1)
    assert names(catalogue.search(Query())) == {"Quick walk", "Brighter", "Weeping"}


def test_what_cannot_be_read_is_named_and_the_rest_is_there(catalogue: Catalogue, folder: Path) -> None:
    (folder / "broken.notch").write_bytes(b"no zip")
    told = catalogue.gather(folder)
    assert [name for name, _ in told.unreadable] == ["broken.notch"]
    assert "damaged" in told.unreadable[0][1]
    assert told.phrases == 4


def test_an_empty_folder_and_one_given_up(catalogue: Catalogue, folder: Path, tmp_path: Path) -> None:
    assert catalogue.gather(tmp_path / "none").documents == 0
    assert catalogue.search(query_from_text("A minor")) == []
    assert catalogue.like(lick(A_MINOR)) == []
    with pytest.raises(Cancelled):
        catalogue.gather(folder, cancelled=lambda: True)


def test_a_phrase_comes_back_as_it_was(catalogue: Catalogue, folder: Path) -> None:
    catalogue.gather(folder)
    (found,) = catalogue.search(query_from_text("weeping"))
    score = catalogue.music([found.id])[found.id]
    assert [(note.string, note.fret) for note in score.notes] == A_MINOR
    assert score.notes[2].bent
    assert score.beat_map.tempo_at(0.5) == pytest.approx(120)
    assert [chord.name for chord in score.chords] == ["Am"]


def test_solos_without_phrases_are_cut_into_some(catalogue: Catalogue, tmp_path: Path) -> None:
    kept(tmp_path / "solos", "demo", replace(demo_score(), phrases=(), sections=(), variants=()))
    assert catalogue.gather(tmp_path / "solos").phrases > 4


# --- words ---
@pytest.mark.slow
@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("A minor pentatonic", {"Slow walk", "Quick walk", "Weeping"}),
        ("in A minor", {"Slow walk", "Quick walk", "Weeping"}),
        ("Am bends", {"Weeping"}),
        ("A minor without bends", {"Slow walk", "Quick walk"}),
        ("fast", {"Quick walk"}),
        ("slow", {"Slow walk", "Weeping", "Bright"}),
        ("over 8 notes a second", {"Quick walk"}),
        ("under 3 a second", {"Slow walk"}),
        ("fret 5", {"Slow walk", "Quick walk", "Weeping"}),
        ("5th fret", {"Slow walk", "Quick walk", "Weeping"}),
        ("around fret 9", {"Bright"}),
        ("over the fourth", {"Quick walk"}),  # Dm is the fourth of A minor
        ("over IV", {"Quick walk"}),
        ("over the first", {"Slow walk", "Weeping", "Bright"}),
        ("over Dm", {"Quick walk"}),
        ("degrees 1 b3 5", {"Slow walk", "Quick walk", "Weeping"}),
        ("b3 b7", {"Slow walk", "Quick walk"}),  # where G is bent to A there is no b7
        ("walk", {"Slow walk", "Quick walk"}),
        ("major", {"Bright"}),
        ("100%", set()),
    ],
)
def test_found_by_a_guitarists_words(catalogue: Catalogue, folder: Path, line: str, expected: set[str]) -> None:
    catalogue.gather(folder)
    assert names(catalogue.search(query_from_text(line))) == expected


def test_what_is_nothing_else_is_looked_for_in_names() -> None:
    asked = query_from_text("A minor weeping willow")
    assert asked.text == ("weeping", "willow")
    assert query_from_text("the licks of").empty
    assert query_from_text("F# dorian legato").legato
    assert query_from_text("F# dorian").tonic == 6


# --- by example ---
def cheapest(mine: tuple[int, ...], theirs: tuple[int, ...]) -> float:
    """The least cost of making one row of steps of the other, by trying all."""
    if not mine or not theirs:
        return ALONE * (len(mine) + len(theirs))
    same = min(STEP_OFF * abs(mine[0] - theirs[0]), FAR_STEP)
    return min(
        same + cheapest(mine[1:], theirs[1:]),
        ALONE + cheapest(mine[1:], theirs),
        ALONE + cheapest(mine, theirs[1:]),
    )


def row(steps: tuple[int, ...]) -> MelodicLine:
    return MelodicLine(np.array(steps, dtype=np.int64), np.full(len(steps), 0.25))


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.integers(-5, 5), min_size=1, max_size=5).map(tuple),
    st.lists(st.lists(st.integers(-5, 5), min_size=1, max_size=5).map(tuple), min_size=1, max_size=4),
)
def test_no_way_of_making_one_of_the_other_is_cheaper(mine: tuple[int, ...], others: list[tuple[int, ...]]) -> None:
    told = distances(row(mine), [row(other) for other in others])
    expected = [cheapest(mine, other) / (len(mine) + len(other)) for other in others]
    assert told == pytest.approx(expected)


@pytest.mark.parametrize(("frets", "pace", "down"), [(0, 1.0, 0), (3, 1.0, 0), (-2, 0.6, 0), (2, 1.5, 1)])
def test_like_this_one_across_keys_tempos_and_tunings(
    catalogue: Catalogue, folder: Path, frets: int, pace: float, down: int
) -> None:
    catalogue.gather(folder)
    moved = with_times(lick([(string, fret + frets) for string, fret in A_MINOR], step_s=0.5), lambda t: t / pace)
    opens = tuple(midi - down for midi in moved.tuning.open_midi)
    found = catalogue.like(replace(moved, tuning=Tuning(opens)))
    assert found[0].name == "Slow walk"
    assert found[0].distance == pytest.approx(0.0, abs=1e-6)
    assert "Bright" not in names(found)


def test_the_shortlist_holds_what_is_alike() -> None:
    dice = np.random.default_rng(2)
    lines = [row(tuple(dice.integers(-7, 8, 12))) for _ in range(600)]
    for at in (0, 300, 599):
        assert at in shortlist(lines[at], lines, most=20)
    assert list(shortlist(lines[0], lines[:5])) == [0, 1, 2, 3, 4]


# --- the file ---
def test_the_file_is_whole_by_sqlites_own_check(catalogue: Catalogue, folder: Path) -> None:
    catalogue.gather(folder)
    with sqlite3.connect(catalogue.ledger.path) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    assert {"sources", "phrases", "alembic_version"} <= tables


def test_a_newer_one_is_refused_and_left_alone(catalogue: Catalogue) -> None:
    path = catalogue.ledger.path
    catalogue.ledger.close()
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    before = path.read_bytes()
    with pytest.raises(LedgerError, match="newer Notcher"):
        Ledger(path)
    assert path.read_bytes() == before


@pytest.mark.parametrize("content", [b"not a database at all, but long enough to be one" * 40, b"x"])
def test_what_is_no_ledger_is_refused_and_left_alone(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "ledger.sqlite"
    path.write_bytes(content)
    with pytest.raises(LedgerError, match="damaged or no ledger"):
        Ledger(path)
    assert path.read_bytes() == content


def test_another_programs_database_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "ledger.sqlite"
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE recipes (name TEXT)")
    with pytest.raises(LedgerError, match="no ledger of Notcher's"):
        Ledger(path)


def test_damage_inside_is_told(catalogue: Catalogue, folder: Path) -> None:
    catalogue.gather(folder)
    path = catalogue.ledger.path
    catalogue.ledger.close()
    data = bytearray(path.read_bytes())
    data[4096 : 3 * 4096] = b"\xff" * (2 * 4096)
    path.write_bytes(bytes(data))
    with pytest.raises(LedgerError, match="damaged"):
        Ledger(path)
    assert path.read_bytes() == bytes(data)


def test_a_locked_one_is_told_and_nothing_is_lost(
    catalogue: Catalogue, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    catalogue.gather(folder)
    catalogue.ledger.close()
    monkeypatch.setattr("notcher.core.ledger.store.WAIT_S", 0.1)
    other = sqlite3.connect(catalogue.ledger.path, isolation_level=None)
    mine = Catalogue(Ledger(catalogue.ledger.path))
    other.execute("BEGIN EXCLUSIVE")
    try:
        with pytest.raises(LedgerError, match="another program"):
            mine.put(folder / "new.notch", "id", lick(A_MINOR), modified_ns=1, size=1)
    finally:
        other.execute("ROLLBACK")
        other.close()
    assert mine.size == 4


def test_a_read_only_one_is_told(catalogue: Catalogue, folder: Path) -> None:
    path = catalogue.ledger.path
    catalogue.ledger.close()
    path.chmod(stat.S_IRUSR)
    with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    if path.stat().st_uid == 0:  # root may write everything: the sentence is held against the code alone
        from notcher.core.ledger.store import _told

        problem = sqlite3.OperationalError("attempt to write a readonly database")
        problem.sqlite_errorname = "SQLITE_READONLY"
        with pytest.raises(LedgerError, match="may not be written"), _told(path):
            raise problem
    else:
        with pytest.raises(LedgerError, match="may not be written"):
            Catalogue(Ledger(path)).gather(folder)


def test_the_query_has_no_way_around_sql(catalogue: Catalogue, folder: Path) -> None:
    catalogue.gather(folder)
    for word in ("'; DROP TABLE phrases; --", '%"_', "\\"):
        catalogue.search(query_from_text(word))
    for first, second in product(("over", "fret", "degrees", "no", "around", "under"), ("", "x", "12")):
        query_from_text(f"{first} {second}")
    assert catalogue.size == 4


def test_a_lick_of_one_note_is_compared_too() -> None:
    none = MelodicLine(np.zeros(0, dtype=np.int64), np.zeros(0))
    assert distances(none, [none, row((2, 2))]) == pytest.approx([0.0, 1.0])
