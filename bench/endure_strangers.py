"""Small files of strangers that promise or unfold into much, each read by what reads it, in a process of its own: how
much memory and how long.

    python bench/endure_strangers.py [--read FILE]
"""

import argparse
import io
import json
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

import mido
import numpy as np
import soundfile

from notcher.core.errors import NotcherError
from notcher.core.formats import read_document
from notcher.core.formats.imports import read_import
from notcher.core.sound import read_clip

MOST_MB, MOST_S = 1024, 10.0
"""What the program may take before a file is refused or read."""
HEAD = b'{"format": "notcher-score", "version": 1, "id": "a", "title": "", "recording": null, "notes": ['
NOTE = b'{"id": "%d", "onset_s": 1, "offset_s": 2, "string": 1, "fret": 1}'
XML = b'<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1"/></part-list><part id="P1">'


@dataclass(frozen=True)
class Outcome:
    """How the reading of a file ended. mb: the most that was held."""

    name: str
    size: int
    mb: float
    seconds: float
    words: str

    @property
    def bounded(self) -> bool:
        return self.mb <= MOST_MB and self.seconds <= MOST_S and not self.words.startswith("fault")


# --- the files ---
def _zipped(parts: dict[str, bytes], method: int = zipfile.ZIP_DEFLATED) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", method) as archive:
        for name, content in parts.items():
            archive.writestr(name, content)
    return stream.getvalue()


def _array(header: str, rows: bytes = b"") -> bytes:
    padded = header.ljust(118 - 10) + "\n"
    return b"\x93NUMPY\x01\x00" + len(padded).to_bytes(2, "little") + padded.encode("latin-1") + rows


def _silence(hours: float, channels: int) -> bytes:
    """FLAC of silence: hours in a few hundred kilobytes."""
    stream = io.BytesIO()
    with soundfile.SoundFile(stream, "w", 44_100, channels, format="FLAC", subtype="PCM_16") as sink:
        block = np.zeros((44_100 * 60, channels), dtype=np.int16)
        for _ in range(round(hours * 60)):
            sink.write(block)
    return stream.getvalue()


def _claimed_smaller(archive: bytes, size: int) -> bytes:
    """A zip whose directory claims that its first member is small."""
    at = archive.index(b"PK\x01\x02")
    return archive[: at + 24] + size.to_bytes(4, "little") + archive[at + 28 :]


def _made() -> dict[str, Callable[[], bytes]]:
    """What makes each of them, by its name."""
    huge = b" " * (400 * 2**20)
    brackets = b"[" + b"{}," * (15 * 2**20)
    evidence = _array("{'descr': '<f8', 'fortran_order': False, 'shape': (134217728,), }")
    container = b'<container><rootfiles><rootfile full-path="a.xml"/></rootfiles></container>'

    def score(text: bytes, method: int = zipfile.ZIP_DEFLATED) -> bytes:
        return _zipped({"score.json": text}, method)

    def notes(rows: Iterable[bytes]) -> bytes:
        return score(HEAD + b",".join(rows) + b"]}")

    def beside(name: str, content: bytes) -> bytes:
        return _zipped({"score.json": HEAD + b"]}", name: content})

    def unfolding() -> bytes:
        shape = "{'descr': '<f8', 'fortran_order': False, 'shape': (41943040,), }"
        return _zipped({"times_s.npy": _array(shape, bytes(320 * 2**20))})

    def mxl(inside: bytes) -> bytes:
        return _zipped({"META-INF/container.xml": container, "a.xml": XML + inside})

    never = (
        b'<measure number="1"><note><pitch><step>E</step><octave>4</octave></pitch><duration>99999999999999</duration>'
    )
    return {
        "blanks.notch": lambda: score(huge),
        "claimed smaller.notch": lambda: _claimed_smaller(score(huge), 1000),
        "packed by bzip2.notch": lambda: score(huge, zipfile.ZIP_BZIP2),
        "packed by lzma.notch": lambda: score(huge, zipfile.ZIP_LZMA),
        "empty objects.notch": lambda: score(HEAD + brackets),
        "lists.notch": lambda: notes([b"[]"] * 2_900_000),
        "words.notch": lambda: notes(b'"%x"' % number for number in range(4_000_000)),
        "notes.notch": lambda: notes(NOTE % number for number in range(300_000)),
        "array's claim.notch": lambda: beside("pitch.npz", _zipped({"times_s.npy": evidence})),
        "array.notch": lambda: beside("pitch.npz", unfolding()),
        "hours of silence.notch": lambda: beside("recording.flac", _silence(1.5, 2)),
        "hours of silence.flac": lambda: _silence(1.5, 2),
        "an hour of silence.flac": lambda: _silence(0.99, 1),
        "an hour of two.flac": lambda: _silence(0.99, 2),
        "blanks.mxl": lambda: mxl(huge),
        "elements.mxl": lambda: mxl(b"<a/>" * (11 * 2**20)),
        "one long text.mxl": lambda: mxl(b"x" * (44 * 2**20)),
        "names.mxl": lambda: mxl(b'<a b="' + b"c" * (44 * 2**20)),
        "empty objects.jams": lambda: b'{"annotations": [' + brackets,
        "bars that never end.musicxml": lambda: XML + never + b"</note></measure></part></score-partwise>",
    }


def bombs(folder: Path, *names: str) -> list[Path]:
    """Write all of them, or some by their names."""
    paths = []
    for name, made in _made().items():
        if not names or name in names:
            paths.append(folder / name)
            paths[-1].write_bytes(made())
    return paths


# --- files of very many notes ---
PLACE = b"<notations><technical><string>1</string><fret>0</fret></technical></notations>"
TABBED = b"<note><pitch><step>E</step><octave>4</octave></pitch><duration>1</duration>%s</note>"


def _many_musicxml(count: int, place: bytes) -> bytes:
    head = b'<attributes><divisions>4</divisions></attributes><sound tempo="480"/>'
    bars = (b'<measure number="%d">%s%s</measure>' % (at, head if at == 0 else b"", TABBED % place * 4)
            for at in range(count // 4))  # fmt: skip
    return XML + b"".join(bars) + b"</part></score-partwise>"


def _many_midi(count: int) -> bytes:
    file, track = mido.MidiFile(ticks_per_beat=480), mido.MidiTrack()
    file.tracks.append(track)
    track.append(mido.MetaMessage("set_tempo", tempo=125_000))
    for at in range(count):
        track.append(mido.Message("note_on", note=60 + at % 12, velocity=80, time=0))
        track.append(mido.Message("note_off", note=60 + at % 12, time=120))
    stream = io.BytesIO()
    file.save(file=stream)
    return stream.getvalue()


def _many_jams(count: int) -> bytes:
    rows = [{"time": at * 0.03, "duration": 0.029, "value": 64 + at % 5} for at in range(count)]
    return json.dumps({"annotations": [{"namespace": "note_midi", "data": rows}], "file_metadata": {}}).encode("ascii")


def _many_events(count: int) -> bytes:
    notes = [{"onset_s": at * 0.03, "offset_s": at * 0.03 + 0.029, "fretted_midi": 64 + at % 5} for at in range(count)]
    head = {"format": "notcher-events", "version": 1, "tuning": {"open_midi": [64, 59, 55, 50, 45, 40],
            "offset_cents": 0}, "recording": {"file": "a.wav", "duration_s": 3000, "sample_rate": 44100},
            "pulse": {"tempo_bpm": None, "first_beat_s": None, "meter": None}}  # fmt: skip
    return json.dumps({**head, "notes": notes}).encode("ascii")


def _many_text(count: int) -> bytes:
    system = b"".join(b"%s|%s|\n" % (name, b"-3--5-" * 10 if name == b"e" else b"-" * 60)
                      for name in (b"e", b"B", b"G", b"D", b"A", b"E"))  # fmt: skip
    return (system + b"\n") * (count // 20)


MANY: dict[str, Callable[[int], bytes]] = {
    "tab.musicxml": lambda count: _many_musicxml(count, PLACE),
    "notes.musicxml": lambda count: _many_musicxml(count, b""),
    "notes.mid": _many_midi,
    "notes.jams": _many_jams,
    "notes.events.json": _many_events,
    "tab.txt": _many_text,
}
"""What makes a file of so many notes, by its name."""


def many_notes(folder: Path, count: int) -> list[Path]:
    """Write a file of so many notes in every format that is read."""
    paths = []
    for name, made in MANY.items():
        paths.append(folder / f"{count} {name}")
        paths[-1].write_bytes(made(count))
    return paths


# --- reading ---
def read(path: Path) -> str:
    """Read a file as the program does; return what is said of it."""
    try:
        if path.suffix == ".notch":
            return f"read: {len(read_document(path).score.notes)} notes"
        if path.suffix == ".flac":
            return f"read: {read_clip(path).duration_s:.0f} s"
        return f"read: {len(read_import(path).score.notes)} notes"
    except NotcherError as problem:
        return str(problem)


def outcome(path: Path) -> Outcome:
    """Read a file in a process of its own."""
    command = [sys.executable, __file__, "--read", str(path)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    lines = [json.loads(line) for line in done.stdout.splitlines() if line.startswith("{")]
    if done.returncode or not lines:
        return Outcome(path.name, path.stat().st_size, 0.0, 0.0, f"fault {done.stderr[-200:]}")
    return Outcome(path.name, path.stat().st_size, lines[0]["mb"], lines[0]["seconds"], lines[0]["words"])


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--read", type=Path)
    options = parser.parse_args()
    if options.read is not None:
        begun = time.monotonic()
        words = read(options.read)
        seconds = time.monotonic() - begun
        status = Path("/proc/self/status").read_text("ascii", "replace")
        held_kb = int(next(line for line in status.splitlines() if line.startswith("VmHWM")).split()[1])
        print(json.dumps({"words": words, "seconds": seconds, "mb": held_kb / 1024}))
        return 0
    with tempfile.TemporaryDirectory() as folder:
        outcomes = [outcome(path) for path in bombs(Path(folder))]
    for told in outcomes:
        print(
            f"{'ok ' if told.bounded else 'BAD'} {told.name:30} {told.size:9} B"
            f"{told.mb:6.0f} MB {told.seconds:5.1f} s  {told.words}"
        )
    return sum(not told.bounded for told in outcomes)


if __name__ == "__main__":
    sys.exit(main())
