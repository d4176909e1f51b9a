"""The document through its versions: an older one is brought up step by step, a newer one is left alone."""

import json
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from mutations import mutated, targets, whole_document
from notcher.core.errors import NotcherError
from notcher.core.formats import Document, FileError, read_document, write_document
from notcher.core.formats.document.document import score_of, upgraded
from notcher.core.formats.document.upgrades import Parts
from notcher.core.score import Note, Score
from notcher.core.sound import AudioError, read_clip, write_clip


def parts_of(path: Path) -> dict[str, bytes]:
    with zipfile.ZipFile(path) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def test_an_older_document_goes_through_every_step_to_the_newest(tmp_path: Path) -> None:
    """Two steps that nobody has needed yet: what was called "name" is the title, what was no meter is common time."""
    document = whole_document()
    write_document(document, tmp_path / "a.notch")
    texts = {name: part for name, part in parts_of(tmp_path / "a.notch").items() if name.endswith(".json")}
    score = json.loads(texts["score.json"])
    score["name"] = score.pop("title")
    texts["score.json"] = json.dumps(score).encode()
    asked: list[int] = []

    def named(parts: Parts) -> Parts:
        asked.append(1)
        score = dict(parts["score.json"])
        return parts | {"score.json": score | {"title": score.pop("name"), "version": 2}}

    def keyed(parts: Parts) -> Parts:
        asked.append(2)
        score = {key: value for key, value in parts["score.json"].items() if key != "name"}
        return parts | {"score.json": score | {"version": 3}}

    parts = upgraded(texts, "a.notch", newest=3, steps={1: named, 2: keyed})
    assert asked == [1, 2]
    assert score_of(parts["score.json"], "a.notch") == document.score
    with pytest.raises(FileError, match="no document of version 1"):
        upgraded(texts | {"score.json": b'{"format": "notcher-score", "version": 1}'}, "a", newest=3, steps={1: named})


def test_a_document_says_its_version_and_nothing_of_practice(tmp_path: Path) -> None:
    write_document(whole_document(), tmp_path / "a.notch")
    parts = parts_of(tmp_path / "a.notch")
    data = json.loads(parts["score.json"])
    assert data["version"] == 1
    assert all({"id", "string", "fret"} <= note.keys() for note in data["notes"])
    assert set(parts) == {"score.json", "revisions.json", "recording.flac", "pitch.npz"}


def test_everything_is_read_back(tmp_path: Path) -> None:
    document = whole_document()
    write_document(document, tmp_path / "a.notch")
    back = read_document(tmp_path / "a.notch")
    assert back.score == document.score
    assert (back.id, back.revisions) == (document.id, document.revisions)
    for name in ("notes", "phrases", "sections", "variants"):
        before, after = getattr(document.score, name), getattr(back.score, name)
        assert [part.id for part in after] == [part.id for part in before], name
    sources = [note.source for note in back.score.variants[0].notes]
    assert sources == [note.source for note in document.score.variants[0].notes]
    assert np.array_equal(back.attacks_s, document.attacks_s)


def test_a_newer_document_is_refused_with_its_bytes_untouched(tmp_path: Path) -> None:
    path = tmp_path / "future.notch"
    write_document(whole_document(), path)
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    score = json.loads(parts["score.json"])
    parts["score.json"] = json.dumps(score | {"version": 2, "mood": "blue"}).encode()
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    before, stamp = path.read_bytes(), path.stat().st_mtime_ns
    with pytest.raises(FileError, match=r"newer Notcher \(format 2; this one reads 1\)"):
        read_document(path)
    assert (path.read_bytes(), path.stat().st_mtime_ns) == (before, stamp)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(3))
def test_damaged_files_are_read_or_refused_and_nothing_else(tmp_path: Path, seed: int) -> None:
    """A short run of the mutation bench; 10^5 are in docs/benchmarks/mutations.md."""
    dice, refused = np.random.default_rng(9_000 + seed), []
    kinds = targets(tmp_path)
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
    with zipfile.ZipFile(tmp_path / "b.notch", "w") as archive:
        for name, data in (parts_of(tmp_path / "a.notch") | {"recording.flac": bytes(raw)}).items():
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
        (lambda data: data["notes"][0].update(onset_s=1e300), "smaller than or equal to 3600"),
        (lambda data: data["notes"][1].update(id=data["notes"][0]["id"]), "the same id"),
        (lambda data: data["notes"][0].pop("id"), "at notes/0, id is missing"),
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
    broken = replace(whole_document(), track=None)  # type: ignore[arg-type]  # raises in the middle of a save
    with pytest.raises(AttributeError):
        write_document(broken, path)
    assert path.read_bytes() == before
    assert [file.name for file in tmp_path.iterdir()] == ["a.notch"]
