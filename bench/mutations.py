"""Files damaged on purpose, by a seed: what a bad disk, a bad program or a bad person makes of them."""

import copy
import io
import json
import shutil
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import av
import numpy as np
from PyQt6.QtCore import QSettings

from notcher.core.errors import NotcherError
from notcher.core.formats import (
    AutosaveStore,
    Document,
    Recovery,
    Unsaved,
    musicxml_text,
    read_document,
    read_events,
    read_import,
    text_tab,
    write_document,
)
from notcher.core.formats.events import Recording, write_events
from notcher.core.formats.files.atomic import schema
from notcher.core.formats.jams import jams_bytes
from notcher.core.formats.midi.writing import midi_bytes
from notcher.core.hearing import PitchTrack
from notcher.core.ledger import Lesson, LoggedPass, RowChange, Student
from notcher.core.ledger.pending_changes import PendingChanges
from notcher.core.ledger.record import Record
from notcher.core.ledger.store import Ledger
from notcher.core.proving import Result
from notcher.core.score import (
    BeatMap,
    Chord,
    Doubt,
    DoubtKind,
    Facts,
    Key,
    Meter,
    Note,
    Phrase,
    PitchCurve,
    Revision,
    Score,
    Section,
    Vibrato,
)
from notcher.core.score.edits import derived_variant, with_variant
from notcher.core.sound import Clip, read_clip, write_clip
from notcher.demo import demo_score
from notcher.ui.state.settings import SETTINGS, Settings
from schema_values import changed

ODD: tuple[Any, ...] = (
    None, True, -1, 0, 0.5, 10**5, 10**9, -(10**9), 1e300, -1e-300, 10**14, 10**400, "", "x", "0",
    "\ud800", "\x00", "é" * 2000,
    [], {}, [[]], [None], [[0, 0]] * 3, {"id": ""}, [[1, 2], [0, 1]], {"a": {"a": {"a": []}}},
)  # fmt: skip
"""What stands in a file where something else belongs."""


def whole_document() -> Document:
    """Return a small document that has everything in it."""
    notes = (
        Note(0.2, 0.6, 2, 12, curve=PitchCurve(((0.0, 0.0), (0.15, 2.0))), vibrato=Vibrato(0.2, 5.5, 20.0), finger=3),
        Note(0.6, 0.9, 2, 10, doubt=Doubt(DoubtKind.EQUAL_PLACE, place=(3, 14)), remark="lean on it"),
        Note(0.9, 1.2, 1, 8, division="thirds", starts_at=1.5, slip=True, checked=True),
    )
    phrases = (Phrase(0.1, 0.95, "Call", near_fret=10), Phrase(0.95, 1.5, "Answer", key=Key("A", "dorian")))
    beat_map = replace(BeatMap.steady(60, 0.1, Meter(6, 8), pickup=0.5).with_meter(3, Meter(2, 4), until=4))
    score = Score(notes, beat_map=beat_map, chords=(Chord(0.2, "Am7"),), phrases=phrases, title="Riding light",
                  sections=(Section(0.1, 1.5, "First watch"),), key=Key("E", "natural minor"),
                  facts=Facts("the keeper", "second night", "neck", "Ida"))  # fmt: skip
    score = with_variant(score, derived_variant(score, score.phrases[0], "easier"))
    rate = 8_000
    tone = (0.3 * np.sin(np.arange(rate // 4) / 5)).astype(np.float32)[:, None]
    track = PitchTrack(np.arange(50) * 0.01, np.full(50, 440.0), np.full(50, 0.9), np.full(50, -20.0))
    return Document(
        score,
        Clip(tone, rate, "light.wav"),
        track,
        np.array([0.2, 0.6]),
        (Revision("a", "2026-03-01", score),),
        "doc",
    )


@dataclass(frozen=True)
class Target:
    """A kind of file: its whole bytes, and what reads it from a path."""

    name: str
    whole: bytes
    ending: str
    read: Callable[[Path], Any]
    archive: bool = False
    schema: str = ""
    """Of the values that are changed within what it allows, where that is how it is damaged."""


def targets(folder: Path) -> list[Target]:
    """Return every kind of file that Notcher reads."""
    document = whole_document()
    write_document(document, folder / "a.notch")
    write_events(document.score, folder / "a.events.json", Recording("light.wav", 2.0, 8_000))
    kept = AutosaveStore(folder / "unsaved", document.id)
    kept.save_delta(document, None, None)
    kept.save_delta(replace(document, score=document.score.with_note(document.score.notes[0].id, fret=13)), None, None)
    journal = (kept.folder / "journal.jsonl").read_bytes()
    kept.discard()
    found = [
        Target("document", (folder / "a.notch").read_bytes(), "notch", read_document, archive=True),
        Target("document, values", (folder / "a.notch").read_bytes(), "notch", read_document, schema="score"),
        Target("events", (folder / "a.events.json").read_bytes(), "events.json", read_events),
        Target("journal", journal, "jsonl", _read_journal),
        Target("text tab", text_tab(demo_score()).encode("utf-8"), "txt", read_import),
        Target("MusicXML", musicxml_text(document.score).encode("utf-8"), "musicxml", read_import),
        Target("MusicXML, compressed", _compressed(musicxml_text(document.score)), "mxl", read_import, archive=True),
        Target("MIDI", midi_bytes(document.score), "mid", read_import),
        Target("JAMS", jams_bytes(document.score), "jams", read_import),
        Target("sound M4A", _m4a(), "m4a", read_clip),
        *_ledger_and_beside(folder),
        _settings(folder),
    ]
    for kind in ("WAV", "FLAC", "OGG", "MP3"):
        clip = document.clip
        assert clip is not None
        path = folder / f"a.{kind.lower()}"
        write_clip(clip, path, kind=kind)
        found.append(Target(f"sound {kind}", path.read_bytes(), kind.lower(), read_clip))
    return found


def _ledger_and_beside(folder: Path) -> list[Target]:
    """The record of students: its file, a copy of it given out as JSON, and what waits beside it."""
    path = folder / "ledger.sqlite"
    ledger = Ledger(path)
    record = Record(ledger)
    rows = (
        Student("Ada", id="ada"),
        Lesson("ada", "doc", "2026-03-02"),
        *(LoggedPass("ada", "doc", ("p",), 0.5, Result.CLEAN, f"2026-03-0{day}T09:00:00") for day in range(1, 9)),
    )
    record.put(*rows)
    given_out = json.dumps(record.all_data()).encode("utf-8")
    ledger.close()
    beside = PendingChanges(folder / "beside")
    for row in rows:
        beside.keep([RowChange(None, row)])
    return [
        Target("ledger", path.read_bytes(), "sqlite", _read_ledger),
        Target("ledger, given out", given_out, "json", _take_in_ledger),
        Target("ledger, what waits", (folder / "beside" / "changes.jsonl").read_bytes(), "jsonl", _read_waiting),
    ]


def _read_ledger(path: Path) -> Any:
    ledger = Ledger(path)
    try:
        return Record(ledger).read("ada")
    finally:
        ledger.close()
        for left in path.parent.glob(f"{path.name}-*"):
            left.unlink()


def _take_in_ledger(path: Path) -> Any:
    into = path.with_suffix(".into")
    into.unlink(missing_ok=True)
    shutil.copy(path.with_name("ledger.sqlite"), into)
    ledger = Ledger(into)
    try:
        return Record(ledger).take_file(path)
    finally:
        ledger.close()


def _read_waiting(path: Path) -> Any:
    waiting = PendingChanges(path.parent / "waiting")
    waiting.folder.mkdir(exist_ok=True)
    shutil.copy(path, waiting.folder / "changes.jsonl")
    into = path.with_suffix(".into")
    shutil.copy(path.with_name("ledger.sqlite"), into)
    ledger = Ledger(into)
    try:
        waiting.write_into(Record(ledger))
        return Record(ledger).read("ada")
    finally:
        ledger.close()


def _read_settings(path: Path) -> Any:
    settings = Settings(QSettings(str(path), QSettings.Format.IniFormat))
    values = [settings.get(setting.name) for setting in SETTINGS]
    told = settings.told_cautions("2026-03-02"), settings.latency_s("amp"), settings.recent, settings.student_id
    return [*values, *told, settings.naming, settings.thresholds, settings.levels, settings.ladder, settings.weights]


def _settings(folder: Path) -> Target:
    path = folder / "a.ini"
    settings = Settings(QSettings(str(path), QSettings.Format.IniFormat))
    for setting in SETTINGS:
        settings.set(setting.name, settings.get(setting.name))
    settings.keep_latency("amp", 12.0)
    settings.add_recent("watch.notch")
    settings.tell_cautions("2026-03-02", ["a"])
    settings._store.sync()
    return Target("settings", path.read_bytes(), "ini", _read_settings)


def _compressed(text: str) -> bytes:
    """A compressed MusicXML, as its container describes it."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        container = '<container><rootfiles><rootfile full-path="solo.musicxml"/></rootfiles></container>'
        archive.writestr("META-INF/container.xml", container)
        archive.writestr("solo.musicxml", text)
    return stream.getvalue()


def _m4a() -> bytes:
    """A tenth of a second of AAC."""
    stream = io.BytesIO()
    with av.open(stream, "w", format="mp4") as container:
        coder = container.add_stream("aac", rate=44_100, layout="mono")
        for at in range(0, 4096, 1024):
            tone = (0.3 * np.sin(np.arange(at, at + 1024) / 10)).astype(np.float32)[None]
            block = av.AudioFrame.from_ndarray(tone, format="fltp", layout="mono")
            block.sample_rate, block.pts = 44_100, at
            container.mux(coder.encode(block))
        container.mux(coder.encode(None))
    return stream.getvalue()


def _read_journal(path: Path) -> Document:
    """Recover from a folder that holds one damaged journal."""
    folder = path.parent / "1-1"
    folder.mkdir(exist_ok=True)
    (folder / "journal.jsonl").write_bytes(path.read_bytes())
    recovery = Recovery(path.parent)
    unsaved = next(recovery.found(), None)
    if unsaved is None:
        raise NotcherError("Nothing was found.", "")
    assert isinstance(unsaved, Unsaved)
    return recovery.read(unsaved).document


def mutated(target: Target, dice: np.random.Generator) -> bytes:
    """Return a file's bytes, damaged once or a few times."""
    if target.schema:
        return _other_values(target.whole, target.schema, dice)
    if target.archive and dice.random() < 0.75:
        return _mutated_archive(target.whole, dice)
    if target.ending in ("events.json", "jsonl") and dice.random() < 0.7:
        return _mutated_lines(target.whole, dice, lines=target.ending == "jsonl")
    return _mutated_bytes(target.whole, dice)


def _other_values(whole: bytes, schema_name: str, dice: np.random.Generator) -> bytes:
    """A document whose score says something else that its schema allows."""
    with zipfile.ZipFile(io.BytesIO(whole)) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    parts["score.json"] = json.dumps(changed(json.loads(parts["score.json"]), schema(schema_name), dice)).encode(
        "utf-8"
    )
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for part, content in parts.items():
            archive.writestr(part, content)
    return stream.getvalue()


def _mutated_bytes(data: bytes, dice: np.random.Generator) -> bytes:
    result = bytearray(data)
    for _ in range(int(dice.integers(1, 4))):
        if not result:
            break
        at, length = int(dice.integers(len(result))), int(dice.integers(1, 40))
        way = int(dice.integers(7))
        if way == 0:
            result[at] ^= 1 << int(dice.integers(8))
        elif way == 1:
            del result[at:]
        elif way == 2:
            del result[at : at + length]
        elif way == 3:
            result[at : at + length] = bytes(length)
        elif way == 4:
            result[at : at + length] = dice.bytes(length)
        elif way == 5:
            result[at:at] = result[at : at + length]
        else:
            result[at : at + 4] = b"\xff\xff\xff\x7f"
    return bytes(result)


def _mutated_archive(data: bytes, dice: np.random.Generator) -> bytes:
    """One part of a zip damaged, and the zip made whole around it, so that its reader gets to see the damage."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    name = str(dice.choice(sorted(parts)))
    way = dice.random()
    if way < 0.05:
        del parts[name]
    elif way < 0.1:
        parts[name] = parts[str(dice.choice(sorted(parts)))]
    elif name.endswith(".json") and way < 0.8:
        parts[name] = _mutated_lines(parts[name], dice, lines=False)
    elif name.endswith(".npz") and way < 0.7:
        parts[name] = _mutated_npz(parts[name], dice)
    else:
        parts[name] = _mutated_bytes(parts[name], dice)
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED if dice.random() < 0.5 else zipfile.ZIP_STORED) as archive:
        for part, content in parts.items():
            archive.writestr(part, content)
    return stream.getvalue()


def _mutated_npz(data: bytes, dice: np.random.Generator) -> bytes:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    name = str(dice.choice(sorted(parts)))
    array = np.load(io.BytesIO(parts[name]))
    with np.errstate(invalid="ignore"):  # numbers that fit into no byte are what is wanted
        small = array.astype(np.int8)
    odd: list[Any] = [
        array[::-1], array[:-1], array[:, None], array.astype(str), array > 0, np.append(array, np.nan),
        np.append(array, np.inf), array.astype(np.complex128), np.zeros((0,)), small, np.zeros(()),
    ]  # fmt: skip
    stream = io.BytesIO()
    np.save(stream, odd[int(dice.integers(len(odd)))])
    raw = bytearray(stream.getvalue())
    if dice.random() < 0.5:  # the header is a Python literal: make it another one
        at = int(dice.integers(8, min(len(raw), 100)))
        raw[at : at + 1] = bytes([int(dice.choice(list(b"()[]{},:'0123456789-eL \x00\xff")))])
    parts[name] = bytes(raw)
    result = io.BytesIO()
    with zipfile.ZipFile(result, "w") as archive:
        for part, content in parts.items():
            archive.writestr(part, content)
    return result.getvalue()


def _mutated_lines(text: bytes, dice: np.random.Generator, *, lines: bool) -> bytes:
    """A value of a JSON text made odd, gone, doubled or called otherwise."""
    rows = text.split(b"\n") if lines else [text]
    at = int(dice.integers(len(rows)))
    try:
        data = json.loads(rows[at])
    except ValueError:
        return _mutated_bytes(text, dice)
    for _ in range(int(dice.integers(1, 3))):
        _mutate(data, dice)
    rows[at] = json.dumps(data, allow_nan=True).encode("ascii")
    if dice.random() < 0.1:
        rows[at] = rows[at].replace(b"0.", dice.choice([b"1e999", b"NaN", b"00.", b"-Infinity", b"9" * 5000 + b"."]), 1)
    return b"\n".join(rows)


def _mutate(data: Any, dice: np.random.Generator) -> None:
    """Go down a random way, and damage what is there."""
    while True:
        keys = list(data) if isinstance(data, dict) else list(range(len(data))) if isinstance(data, list) else []
        if not keys:
            return
        key = keys[int(dice.integers(len(keys)))]
        if isinstance(data[key], dict | list) and data[key] and dice.random() < 0.8:
            data = data[key]
            continue
        way = dice.random()
        if way < 0.6:
            value = data[key]
            odd = copy.deepcopy(ODD[int(dice.integers(len(ODD)))])
            number = isinstance(value, int | float) and not isinstance(value, bool) and abs(value) < 1e300
            near = number and dice.random() < 0.4
            data[key] = value * float(dice.normal()) if near else odd
        elif way < 0.75:
            del data[key]
        elif isinstance(data, dict):
            data[f"{key}x"] = data.pop(key)
        else:
            data.insert(int(dice.integers(len(data) + 1)), copy.deepcopy(data[key]))
        return
