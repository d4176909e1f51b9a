"""Writing a pack, as a folder or a zip: whole or not at all."""

import json
import os
import shutil
import tempfile
import zipfile
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from notcher.core.errors import CancelCheck, Progress, never_cancelled, no_progress
from notcher.core.formats import FileError, atomic_write
from notcher.core.formats.midi.writing import midi_bytes
from notcher.core.formats.musicxml.writing import musicxml_text
from notcher.core.hearing import EMPTY_TRACK, PitchTrack
from notcher.core.patterns import patterns
from notcher.core.score import Score
from notcher.core.sound import Clip
from notcher.core.teaching.difficulty import Guitar, difficulties
from notcher.core.teaching.pack import PackChoices, PackedLoop, PackError, Sink, make_loops, packed_phrases, slug
from notcher.core.teaching.pack_page import pack_page
from notcher.core.teaching.plan import LessonOrder, Plan
from notcher.core.teaching.plan_data import plan_lines
from notcher.core.teaching.planning import plan_lesson
from notcher.core.words import USUAL, Naming

LESSON_MINUTES = 30.0  # half an hour (common practice, no source)
ZIP = ".zip"
Extra = Callable[[Progress, CancelCheck], bytes]
"""Makes one more file of a pack, such as the sheet, which is painted, or a film."""


def first_lesson(score: Score, *, minutes: float = LESSON_MINUTES, lesson_order: str = "") -> Plan:
    """Return a lesson on a solo for somebody who begins with it. Raises: PlanError."""
    difficulty = difficulties(score, guitar=Guitar())
    return plan_lesson(
        score, minutes=minutes, patterns=patterns(score),
        lesson_order=LessonOrder(lesson_order or LessonOrder.BUILD_UP),
        difficulty=difficulty,
    )  # fmt: skip


def write_pack(
    target: str | os.PathLike[str],
    score: Score,
    recording: Clip | None,
    choices: PackChoices,
    *,
    track: PitchTrack = EMPTY_TRACK,
    sheet: Extra | None = None,
    films: Mapping[str, Extra] | None = None,
    plan: Plan | None = None,
    student: str = "",
    changed: Sequence[str] = (),
    naming: Naming = USUAL,
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> list[PackedLoop]:
    """Write a pack as a zip, where the name ends so, else as a folder; return its loops.

    sheet: makes the PDF. films: make films, by their names. plan: told in words, else the first lesson.
    changed: what is another since the student got the solo last, a line each.
    Raises: PackError, FileError, Cancelled; nothing is left behind then.
    """
    packed_phrases(score, choices)  # what cannot be packed is told before anything is made
    path = Path(target)

    def fill(sink: Sink) -> list[PackedLoop]:
        return _filled(sink, score, recording, choices, track, sheet, films or {}, plan, student, changed, naming,
                       progress, cancelled)  # fmt: skip

    if path.suffix.lower() == ZIP:
        return _as_zip(path, fill)
    return _as_folder(path, fill)


def _filled(
    sink: Sink, score: Score, recording: Clip | None, choices: PackChoices, track: PitchTrack, sheet: Extra | None,
    films: Mapping[str, Extra], plan: Plan | None, student: str, changed: Sequence[str], naming: Naming,
    progress: Progress, cancelled: CancelCheck,
) -> list[PackedLoop]:  # fmt: skip
    """Hand over every file of a pack."""
    name = slug(score.title or "solo")
    whole = 0.7 if films else 0.9
    loops = make_loops(
        score, recording, choices, sink, progress=lambda share: progress(whole * share), cancelled=cancelled
    )
    files: list[tuple[str, str]] = []
    if sheet is not None:
        sink(f"{name}.pdf", sheet(no_progress, cancelled))
        files.append((f"{name}.pdf", "The sheet, to print"))
    sink("plan.txt", ("\n".join(plan_lines(plan or first_lesson(score))) + "\n").encode("utf-8"))
    files.append(("plan.txt", "What to practise, and in which order"))
    sink(f"{name}.mid", midi_bytes(score, track))
    files.append((f"{name}.mid", "The notes as MIDI"))
    sink(f"{name}.musicxml", musicxml_text(score).encode("utf-8"))
    files.append((f"{name}.musicxml", "The notes as MusicXML, for notation programs"))
    for number, (film, make) in enumerate(films.items()):
        begin = whole + 0.28 * number / len(films)
        span = 0.28 / len(films)
        sink(film, make(lambda share, begin=begin, span=span: progress(begin + span * share), cancelled))  # type: ignore[misc]
    rows = [loop.row for loop in loops]
    sink("pack.json", (json.dumps(rows, ensure_ascii=False, indent=1) + "\n").encode("utf-8"))
    page = pack_page(score, loops, files, student=student, changed=changed, films=list(films), naming=naming)
    sink("index.html", page.encode("utf-8"))
    progress(1.0)
    return loops


def _as_zip(path: Path, fill: Callable[[Sink], list[PackedLoop]]) -> list[PackedLoop]:
    with atomic_write(path) as stream, zipfile.ZipFile(stream, "w") as archive:

        def sink(name: str, data: bytes) -> None:
            squeezed = name.endswith((".txt", ".html", ".json", ".musicxml", ".mid", ".wav"))
            archive.writestr(name, data, zipfile.ZIP_DEFLATED if squeezed else zipfile.ZIP_STORED)

        return fill(sink)


def _as_folder(path: Path, fill: Callable[[Sink], list[PackedLoop]]) -> list[PackedLoop]:
    """Fill a folder beside the place, then put it there."""
    if path.exists() and (not path.is_dir() or any(path.iterdir())):
        raise PackError(f"There is something in {path.name!r} already.", "Choose another name, or a .zip.")
    temporary: Path | None = None
    try:
        temporary = Path(tempfile.mkdtemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent))

        def sink(name: str, data: bytes) -> None:
            file = temporary / name  # type: ignore[operator]
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_bytes(data)

        loops = fill(sink)
        temporary.chmod(0o755)
        if path.exists():
            path.rmdir()
        temporary.replace(path)
        temporary = None
        return loops
    except OSError as problem:
        reason = problem.strerror or "the disk may be full"
        raise FileError(
            f"{path.name!r} could not be written: {reason}.", "Choose another folder or free some space."
        ) from problem
    finally:
        if temporary is not None:
            shutil.rmtree(temporary, ignore_errors=True)
