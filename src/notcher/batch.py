"""All recordings of a folder drafted one after the other, several at a time; what is there already is left alone."""

import multiprocessing
import os
import sys
import threading
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from notcher.core.errors import NotcherError, fault_words
from notcher.core.sound.threads import THREADS_NAME

if TYPE_CHECKING:
    from notcher.core.hearing import Draft
    from notcher.core.sound import Clip

EVENTS, SCORE = ".events.json", ".notch"
ONE_CORE = ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", THREADS_NAME)


class FolderError(NotcherError):
    """A folder whose recordings cannot be drafted."""


@dataclass(frozen=True, slots=True)
class Drafted:
    """What came of one recording. problem: why it could not be drafted, else empty. took_s, length_s: seconds."""

    file: Path
    notes: int = 0
    doubts: int = 0
    length_s: float = 0.0
    took_s: float = 0.0
    problem: str = ""
    peak_mb: float = 0.0

    @property
    def line(self) -> str:
        if self.problem:
            return f"{self.file.name}: {self.problem}"
        doubts = f", {self.doubts} in doubt" if self.doubts else ""
        return f"{self.file.name}: {self.notes} notes{doubts}; {self.length_s:.0f} s heard in {self.took_s:.1f} s"


def recordings_in(folder: Path) -> list[Path]:
    """Return the recordings of a folder and of those in it, by their names; hidden ones are left out.

    Raises: FolderError when there is none.
    """
    from notcher.core.sound import SOUND_ENDINGS

    endings = {ending.lstrip("*") for ending in SOUND_ENDINGS.split()}
    result = sorted(
        path for path in folder.rglob("*")
        if path.is_file() and path.suffix.lower() in endings
        and not any(part.startswith(".") for part in path.relative_to(folder).parts)
    )  # fmt: skip
    if not result:
        raise FolderError(f"There is no recording in {folder.name!r}.", "Give a folder with audio files.")
    return result


LOADED_ONCE = ("notcher.core.hearing", "notcher.core.formats", "notcher.core.sound")
"""What each process needs: a server loads it, and each begins as its copy. Loading took 2 s a recording."""


def draft_folder(
    recordings: Sequence[Path],
    folder: Path,
    out: Path,
    *,
    jobs: int,
    focus: str = "auto",
    tuning: str = "auto",
    scores: bool = False,
) -> Iterator[Drafted]:
    """Draft recordings; yield what came of each as it is done.

    recordings: of the folder, see `undrafted`. out: where drafts go, in folders like those they come from; made when
    it is not there. jobs: how many are heard at a time, each in a process of its own that ends with it: memory stays
    at that many recordings. scores: also write documents. Raises: FolderError.
    """
    waiting = list(recordings)
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([*LOADED_ONCE])
    with _one_core_each(), ProcessPoolExecutor(jobs, mp_context=context, max_tasks_per_child=1) as pool:
        running: set[Future[Drafted]] = set()
        try:
            while waiting or running:
                while waiting and len(running) < jobs:
                    path = waiting.pop(0)
                    running.add(pool.submit(_draft_one, path, _target(path, folder, out), focus, tuning, scores))
                finished, running = wait(running, return_when=FIRST_COMPLETED)
                for future in finished:
                    yield future.result()
        except BrokenProcessPool as problem:
            raise FolderError("A recording needed more memory than there is.", "Give fewer --jobs.") from problem
        finally:
            for future in running:
                future.cancel()


def undrafted(recordings: Sequence[Path], folder: Path, out: Path) -> list[Path]:
    """Return the recordings of a folder that have no draft yet."""
    return [path for path in recordings if not _target(path, folder, out).exists()]


def _target(path: Path, folder: Path, out: Path) -> Path:
    inside = path.relative_to(folder)
    return out / inside.with_name(inside.name + EVENTS)


@contextmanager
def _one_core_each() -> Iterator[None]:
    """Let each process that begins here use one core: the others have theirs. Read by each as it loads NumPy."""
    before = {name: os.environ.get(name) for name in ONE_CORE}
    os.environ.update(dict.fromkeys(ONE_CORE, "1"))
    try:
        yield
    finally:
        for name, value in before.items():
            if value is None:
                del os.environ[name]
            else:
                os.environ[name] = value


def write_draft(draft: "Draft", clip: "Clip", events: Path, document: Path | None) -> None:
    """Write what was heard in a recording, and a document of it where one is wanted.

    The events come last: where they are, all is done. Raises: FileError.
    """
    from notcher.core.formats import Document, write_document, write_events
    from notcher.core.formats.events import Recording

    if document is not None:
        write_document(Document(draft.score, clip, draft.track, draft.attacks_s), document)
    ranked = [(proposal.tuning, proposal.likelihood) for proposal in draft.tunings]
    write_events(draft.score, events, Recording(clip.name, clip.duration_s, clip.sample_rate), ranked)


def _draft_one(path: Path, target: Path, focus: str, tuning: str, scores: bool) -> Drafted:
    """Draft one recording; what is wrong with it is told and stops no other."""
    import resource

    from notcher.core.hearing import draft
    from notcher.core.score import tuning_from_text
    from notcher.core.sound import read_clip

    _end_with_parent()
    begun = time.monotonic()
    try:
        clip = read_clip(path)
        drafted = draft(clip, focus=focus, tuning=None if tuning == "auto" else tuning_from_text(tuning))
        target.parent.mkdir(parents=True, exist_ok=True)
        document = target.with_name(target.name.removesuffix(EVENTS) + SCORE) if scores else None
        write_draft(drafted, clip, target, document)
    except NotcherError as problem:
        return Drafted(path, problem=str(problem))
    except MemoryError:
        return Drafted(path, problem="It needs more memory than there is. Give fewer --jobs.")
    except Exception as problem:
        text = f"Something went wrong inside Notcher ({fault_words(problem)}). Please report it."
        return Drafted(path, problem=text)
    notes = drafted.score.notes
    peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    doubts = sum(note.doubt is not None for note in notes)
    return Drafted(path, len(notes), doubts, clip.duration_s, time.monotonic() - begun, peak_mb=peak_mb)


def _end_with_parent() -> None:
    """End this process when the one that began it ends, however it ends: what it hears is wanted by nobody then."""
    parent = multiprocessing.parent_process()
    if parent is None:
        return

    def watch() -> None:
        parent.join()
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def run(folder: str, out: str, *, jobs: int, focus: str, tuning: str, scores: bool, quiet: bool) -> int:
    """Draft a folder, a line for each recording and a summary; return the exit code.

    Raises: FolderError for wrong use.
    """
    source, target = Path(folder), Path(out)
    if target.exists() and not target.is_dir():
        raise FolderError(f"{target.name!r} is no folder.", "Give a folder to -o.")
    if jobs < 1:
        raise FolderError(f"{jobs} at a time is none.", "Give --jobs 1 or more.")
    recordings, drafts = recordings_in(source), list[Drafted]()
    waiting = undrafted(recordings, source, target)
    for drafted in draft_folder(waiting, source, target, jobs=jobs, focus=focus, tuning=tuning, scores=scores):
        drafts.append(drafted)
        if drafted.problem:
            print(f"notcher: {drafted.line}", file=sys.stderr)
        elif not quiet:
            print(drafted.line, flush=True)
    print(summary(drafts, len(recordings) - len(waiting)), file=sys.stderr)
    return 2 if drafts and all(drafted.problem for drafted in drafts) else 0


def summary(drafts: Sequence[Drafted], there: int) -> str:
    """Return what came of a folder, in a line."""
    good = [drafted for drafted in drafts if not drafted.problem]
    texts = [f"{len(good)} drafted", f"{there} had a draft already" if there else ""]
    texts.append(f"{len(drafts) - len(good)} could not be" if len(good) < len(drafts) else "")
    heard_s, notes = sum(drafted.length_s for drafted in good), sum(drafted.notes for drafted in good)
    sound = f": {heard_s / 60:.1f} minutes of sound, {notes} notes" if good else ""
    return f"{', '.join(part for part in texts if part)}{sound}."
