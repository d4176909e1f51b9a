"""The document through its versions: an old one opens with everything in it, a newer one is left alone."""

import json
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from mutations import mutated, targets, whole_document
from notcher.core.errors import NotcherError
from notcher.core.formats import Document, FileError, read_document, write_document
from notcher.core.proving import Mark, Result
from notcher.core.score import (
    BY_HAND,
    Attack,
    Chord,
    Doubt,
    DoubtKind,
    End,
    Excluded,
    Meter,
    Note,
    Phrase,
    PitchCurve,
    Score,
    Section,
    Stroke,
    Tone,
    Vibrato,
)
from notcher.core.sound import AudioError, read_clip, write_clip

VERSION_1 = Path(__file__).parents[1] / "data" / "version-1.notch"
NOTES_1 = (
    Note(0.20, 0.60, 2, 12, curve=PitchCurve(((0.0, 0.0), (0.15, 2.0))), vibrato=Vibrato(0.2, 5.5, 20.0),
         end=End.RINGS, finger=3, stroke=Stroke.DOWN, remark="lean on it"),
    Note(0.60, 0.90, 2, 10, Attack.PULL, certainty=0.5, doubt=Doubt(DoubtKind.UNSURE, 0.5)),
    Note(0.90, 1.00, 1, 8, Attack.HAMMER, garnish=True, stroke=Stroke.UP),
    Note(1.00, 1.20, 6, 12, tone=Tone.NATURAL_HARMONIC, end=End.CHOKED,
         doubt=Doubt(DoubtKind.TONE, 0.6, Tone.NATURAL_HARMONIC)),
    Note(1.20, 1.40, 3, 7, Attack.SLIDE, slip=True, checked=True, locked=True),
    Note(1.40, 1.60, 3, 9, Attack.TAP, doubt=Doubt(DoubtKind.EQUAL_PLACE, place=(4, 14)), raked=True),
    Note(1.60, 1.80, 4, 7, Attack.SWELL, tone=Tone.PALM_MUTE, end=End.SLIDES_AWAY, doubt=BY_HAND),
)  # fmt: skip
"""What the stored file was made of, when version 1 was what Notcher wrote."""


def test_a_version_1_document_opens_with_everything_in_it() -> None:
    document = read_document(VERSION_1)
    score = document.score
    assert score.notes == NOTES_1
    assert (score.title, score.tuning.open_midi, score.tuning.capo, score.tuning.offset_cents) == (
        "Riding light", (63, 58, 54, 49, 44, 39), 1, -12.5,
    )  # fmt: skip
    # a beat of version 1 was the written one: three anchors an eighth apart, in 6/8
    assert score.beat_map.anchors == ((0.2, 0.0), (0.7, 0.5), (1.25, 1.0))
    assert score.beat_map.meter == Meter(6, 8)
    assert score.chords == (Chord(0.2, "Am7"), Chord(1.0, "D9"))
    assert score.sections == (Section(0.1, 2.0, "First watch"),)
    assert score.phrases == (Phrase(0.1, 0.95, "Call", near_fret=10), Phrase(0.95, 2.0, "Answer"))
    assert [phrase.name for phrase in score.phrases_in(score.sections[0])] == ["Call", "Answer"]
    assert score.excluded == (Excluded(1.85, 60.0),)
    call, answer = (phrase.id for phrase in score.phrases)
    assert document.marks == (
        Mark((call,), 0.5, Result.CLEAN), Mark((call,), 0.6, Result.SHAKY), Mark((answer,), 0.4, Result.MISSED),
        Mark((call, answer), 0.5, Result.SHAKY),
    )  # fmt: skip
    assert document.clip is not None
    assert (document.clip.name, document.clip.duration_s) == ("riding light.wav", 2.0)
    assert document.attacks_s.tolist() == [0.2, 0.6, 0.9]
    assert document.track.times_s.size == 200
    (state,) = document.revisions
    assert (state.name, state.saved_at, len(state.score.notes)) == ("Before the watch", "2026-03-01T20:15:00", 5)


def test_it_opens_again_with_the_same_ids_and_saves_as_the_newest(tmp_path: Path) -> None:
    first, second = read_document(VERSION_1), read_document(VERSION_1)

    def ids(document: Document) -> list[str]:
        parts = (document.score.notes, document.score.phrases, document.score.sections)
        return [document.id, *(part.id for some in parts for part in some)]

    assert ids(first) == ids(second)
    kept = {note.id for note in first.revisions[0].score.notes}
    assert kept <= {note.id for note in first.score.notes}, "a kept state speaks of the same notes"
    write_document(first, tmp_path / "new.notch")
    saved = read_document(tmp_path / "new.notch")
    assert ids(saved) == ids(first)
    assert (saved.score, saved.marks, saved.revisions) == (first.score, first.marks, first.revisions)
    with zipfile.ZipFile(tmp_path / "new.notch") as archive:
        data = json.loads(archive.read("score.json"))
    assert data["version"] == 2
    assert all({"id", "string", "fret"} <= note.keys() for note in data["notes"])
    assert not {"marks", "practice"} & data.keys(), "how practice went is no part of the score"


def test_everything_of_version_2_is_read_back(tmp_path: Path) -> None:
    document = whole_document()
    write_document(document, tmp_path / "a.notch")
    back = read_document(tmp_path / "a.notch")
    assert back.score == document.score
    assert (back.id, back.marks, back.takes, back.revisions) == (
        document.id, document.marks, document.takes, document.revisions,
    )  # fmt: skip
    for name in ("notes", "phrases", "sections", "variants"):
        before, after = getattr(document.score, name), getattr(back.score, name)
        assert [part.id for part in after] == [part.id for part in before], name
    sources = [note.source for note in back.score.variants[0].notes]
    assert sources == [note.source for note in document.score.variants[0].notes]
    assert np.abs(back.take_clips["take-1"].samples - document.take_clips["take-1"].samples).max() < 2e-7
    assert np.array_equal(back.attacks_s, document.attacks_s)


def test_a_newer_document_is_refused_with_its_bytes_untouched(tmp_path: Path) -> None:
    path = tmp_path / "future.notch"
    write_document(whole_document(), path)
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    score = json.loads(parts["score.json"])
    parts["score.json"] = json.dumps(score | {"version": 3, "mood": "blue"}).encode()
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    before, stamp = path.read_bytes(), path.stat().st_mtime_ns
    with pytest.raises(FileError, match=r"newer Notcher \(format 3; this one reads 2\)"):
        read_document(path)
    assert (path.read_bytes(), path.stat().st_mtime_ns) == (before, stamp)


@pytest.mark.parametrize("seed", range(3))
def test_damaged_files_are_read_or_refused_and_nothing_else(tmp_path: Path, seed: int) -> None:
    """A short run of the mutation bench; 10^5 are in docs/benchmarks/mutations.md."""
    dice, refused = np.random.default_rng(9_000 + seed), []
    kinds = targets(tmp_path, VERSION_1)
    for number in range(210):
        target = kinds[number % len(kinds)]
        path = tmp_path / f"b.{target.ending}"
        path.write_bytes(mutated(target, dice))
        try:
            target.read(path)
        except NotcherError as problem:
            refused.append(str(problem))
    assert len(refused) > 100, "most damage is noticed"
    assert not [sentence for sentence in refused if "\n" in sentence], "one sentence on one line"


# --- a sound over the length limit, through every path ---
@pytest.mark.outside(
    what="where a FLAC header tells rate and length",
    source="RFC 9639, 8.2",
    tolerance="exact",
    why="bits",
    kind="standard",
)
def test_a_sound_that_claims_too_much_is_refused_by_every_path(tmp_path: Path) -> None:
    """A FLAC header tells rate and length in bits 80 to 143 of its first block (RFC 9639, 8.2): make it 20 hours."""
    document = whole_document()
    write_clip(document.clip, tmp_path / "a.flac", kind="FLAC")  # type: ignore[arg-type]
    raw = bytearray((tmp_path / "a.flac").read_bytes())
    at = 4 + 4 + 10  # "fLaC", the block's header, two block sizes and two frame sizes
    fields = int.from_bytes(raw[at : at + 8], "big")
    raw[at : at + 8] = ((fields & ~((1 << 36) - 1)) | 20 * 3600 * 8_000).to_bytes(8, "big")
    (tmp_path / "long.flac").write_bytes(raw)
    with pytest.raises(AudioError, match=r"claims to last 20\.0 hours"):
        read_clip(tmp_path / "long.flac")
    write_document(document, tmp_path / "a.notch")
    for part in ("recording.flac", "takes/take-1.flac"):
        with zipfile.ZipFile(tmp_path / "a.notch") as archive:
            parts = {name: archive.read(name) for name in archive.namelist()}
        parts[part] = bytes(raw)
        with zipfile.ZipFile(tmp_path / "b.notch", "w") as archive:
            for name, data in parts.items():
                archive.writestr(name, data)
        with pytest.raises(FileError, match=r"claims to last 20\.0 hours"):
            read_document(tmp_path / "b.notch")


def test_times_that_fall_and_columns_that_do_not_fit_are_refused(tmp_path: Path) -> None:
    document = whole_document()
    track = document.track
    write_document(replace(document, track=replace(track, times_s=track.times_s[::-1])), tmp_path / "a.notch")
    with pytest.raises(FileError, match="measured pitch inside"):
        read_document(tmp_path / "a.notch")
    write_document(replace(document, attacks_s=np.array([1.0, 0.5])), tmp_path / "a.notch")
    with pytest.raises(FileError, match="measured pitch inside"):
        read_document(tmp_path / "a.notch")


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda data: data["notes"][0].update(onset_s=1e300), "must end after it starts"),
        (lambda data: data["notes"][1].update(id=data["notes"][0]["id"]), "the same id"),
        (lambda data: data["notes"][0].pop("id"), "'id' is a required property"),
        (lambda data: data["sections"][0].update(repeats="nobody"), "not there"),
        (lambda data: data["beat_map"].update(pickup=99), "pickup"),
        (lambda data: data["beat_map"]["meters"][0].update(meter="4/5"), "no such meter"),
        (lambda data: data.update(key={"tonic": "Fb", "scale": "locrian"}), "more than seven signs"),
        (lambda data: data["notes"][0].update(remark="\ud800"), "no JSON text"),
        (lambda data: data.update(mood="blue"), "mood"),
    ],
)
def test_what_no_solo_can_be_is_said(tmp_path: Path, change: object, words: str) -> None:
    path = tmp_path / "a.notch"
    write_document(whole_document(), path)
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    data = json.loads(parts["score.json"])
    change(data)  # type: ignore[operator]
    parts["score.json"] = json.dumps(data).encode("ascii")
    with zipfile.ZipFile(path, "w") as archive:
        for name, content in parts.items():
            archive.writestr(name, content)
    with pytest.raises(FileError, match=words):
        read_document(path)


def test_a_save_survives_a_full_disk_and_keeps_the_file(tmp_path: Path) -> None:
    path = tmp_path / "a.notch"
    write_document(Document(Score((Note(0, 1, 1, 5),))), path)
    before = path.read_bytes()
    broken = replace(whole_document(), take_clips={})  # what raises in the middle of a save
    with pytest.raises(KeyError):
        write_document(broken, path)
    assert path.read_bytes() == before
    assert [file.name for file in tmp_path.iterdir()] == ["a.notch"]
