"""What a student takes home: loops at their rungs, the band, the tab's sound, the sheet, a plan, and a page that plays.

A pack works without Notcher: `index.html` is plain HTML with the sounds beside it, from a folder or an unpacked zip.
"""

import io
import re
import unicodedata
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, NotcherError, Progress, never_cancelled, no_progress
from notcher.core.mixing import counted_in
from notcher.core.mixing.mix import BAND, USUAL_RATE, of_recording
from notcher.core.score import Phrase, Score, excerpt
from notcher.core.sound import Clip, is_wide, stretched, write_clip
from notcher.core.synthesis import backing, render

RUNGS = (0.5, 0.7, 1.0)
"""Of the recorded tempo: half, where most begin; on the way; whole (common practice, no source)."""
RUNG_BOUNDS = (0.25, 1.5)  # what stretching can do
FADE_S = 0.02  # no click at the ends
CLICK_LEVEL, PEAK = 0.5, 0.95  # under the guitar; short of clipping
MOST_PHRASES = 200  # more is no lesson


class PackError(NotcherError):
    """A pack that cannot be made as it was asked for."""


class SoundKind(StrEnum):
    """How the sounds are written; a telephone plays all but the last without asking."""

    MP3 = "mp3"
    FLAC = "flac"
    OGG = "ogg"
    WAV = "wav"


class ClickSide(StrEnum):
    """Where clicks sound through a loop; the music is on the other side then."""

    NONE = "none"
    LEFT = "left"
    RIGHT = "right"


class LoopKind(StrEnum):
    """What sounds in a loop."""

    RECORDING = "recording"
    TAB = "tab"
    BAND = "band"
    CLICK = "click"


KIND_WORDS = {
    LoopKind.RECORDING: "the recording",
    LoopKind.TAB: "the tab as it is written",
    LoopKind.BAND: "the band without the lead",
    LoopKind.CLICK: "clicks alone",
}


@dataclass(frozen=True, slots=True)
class PackChoices:
    """What goes into a pack. phrases: ids, empty for all. rungs: paces of the recorded tempo."""

    phrases: tuple[str, ...] = ()
    rungs: tuple[float, ...] = RUNGS
    sound: SoundKind = SoundKind.MP3
    click: ClickSide = ClickSide.NONE

    def __post_init__(self) -> None:
        low, high = RUNG_BOUNDS
        if not self.rungs or not all(low <= pace <= high for pace in self.rungs):
            raise PackError("A tempo lies between 25 and 150 percent.", "Give percents such as 50,70,100.")


@dataclass(frozen=True, slots=True)
class PackedLoop:
    """One sound of a pack. file: within it. count_in_s, seconds: of the count-in, and of all of it."""

    file: str
    phrase: Phrase
    pace: float
    kind: LoopKind
    count_in_s: float
    seconds: float

    @property
    def row(self) -> dict[str, Any]:
        """As `pack.json` tells it."""
        return {
            "file": self.file, "phrase": self.phrase.id, "pace": self.pace, "kind": str(self.kind),
            "count_in_s": round(self.count_in_s, 4), "seconds": round(self.seconds, 4),
        }  # fmt: skip


Sink = Callable[[str, bytes], None]
"""Takes a file of the pack: its name within it, its bytes."""


def packed_phrases(score: Score, choices: PackChoices) -> tuple[Phrase, ...]:
    """Return the phrases that go into a pack. Raises: PackError when there is none, or one is not there."""
    with_notes = tuple(phrase for phrase in score.phrases if len(score.notes_of(phrase)))
    if choices.phrases:
        by_id = {phrase.id: phrase for phrase in with_notes}
        missing = [name for name in choices.phrases if name not in by_id]
        if missing:
            raise PackError("A phrase that was chosen is not there any more.", "Choose again.")
        with_notes = tuple(by_id[name] for name in choices.phrases)
    if not with_notes:
        raise PackError("There is no phrase with notes to pack.", "Write the solo and name its phrases first.")
    if len(with_notes) > MOST_PHRASES:
        raise PackError(f"{len(with_notes)} phrases are too many for one pack.", f"Choose at most {MOST_PHRASES}.")
    return with_notes


def make_loops(
    score: Score,
    recording: Clip | None,
    choices: PackChoices,
    sink: Sink,
    *,
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> list[PackedLoop]:
    """Make every loop of a pack and hand it over as a file, phrase by phrase, slowest first.

    Raises: PackError, Cancelled.
    """
    phrases, packed_loops = packed_phrases(score, choices), list[PackedLoop]()
    rate, kinds = _rate(recording), _kinds(score, recording)
    for count_done, phrase in enumerate(phrases):
        for at, pace in enumerate(sorted(choices.rungs)):
            for kind in kinds:
                if cancelled():
                    raise Cancelled
                sound, count_in_s = phrase_sound(
                    score, recording, phrase, pace, kind, click=choices.click, cancelled=cancelled
                )
                percent = round(100 * pace)
                file = f"loops/{phrase_file(score, phrase)} {percent:03d} {kind}.{choices.sound}"
                sink(file, encoded(Clip(sound, rate, file), choices.sound))
                packed_loops.append(PackedLoop(file, phrase, pace, kind, count_in_s, sound.shape[0] / rate))
            progress((count_done + (at + 1) / len(choices.rungs)) / len(phrases))
    return packed_loops


def phrase_sound(
    score: Score,
    recording: Clip | None,
    phrase: Phrase,
    pace: float,
    kind: LoopKind,
    *,
    click: ClickSide = ClickSide.NONE,
    cancelled: CancelCheck = never_cancelled,
) -> tuple[FloatArray, float]:
    """Return a phrase at a pace after its count-in, shape (n, 2), at the recording's rate; and the count-in's seconds.

    Raises: Cancelled.
    """
    rate = _rate(recording)
    lead = _clicks_before(score, phrase, pace, rate)
    body = _sound(score, recording, phrase, pace, kind, cancelled=cancelled)
    sound = np.concatenate([lead, _with_click(score, phrase, pace, body, click, rate)])
    return _limited(sound), lead.shape[0] / rate


def _rate(recording: Clip | None) -> int:
    return recording.sample_rate if recording is not None else USUAL_RATE


def _kinds(score: Score, recording: Clip | None) -> tuple[LoopKind, ...]:
    """What can be heard: a band where the recording's stands beside its lead, or chords and beats give one."""
    kinds = [LoopKind.RECORDING] if recording is not None else []
    kinds.append(LoopKind.TAB)
    beside = recording is not None and recording.channels == 2 and is_wide(recording)
    if beside or (score.chords and score.beat_map.known):
        kinds.append(LoopKind.BAND)
    return tuple(kinds)


def _sound(
    score: Score, recording: Clip | None, phrase: Phrase, pace: float, kind: LoopKind, *, cancelled: CancelCheck
) -> FloatArray:
    """One phrase at a pace, shape (n, 2); as long as the phrase is at that pace."""
    rate = _rate(recording)
    length = round((phrase.end_s - phrase.start_s) / pace * rate)
    if kind is LoopKind.RECORDING and recording is not None:
        clip = recording.cut(phrase.start_s, min(phrase.end_s, recording.duration_s))
        sound = stretched(clip, pace, cancelled=cancelled).samples
    elif kind is LoopKind.BAND and recording is not None and recording.channels == 2 and is_wide(recording):
        clip = recording.cut(phrase.start_s, min(phrase.end_s, recording.duration_s))
        apart = dict(of_recording(clip, apart=True))["recording"]
        sound = stretched(Clip(apart, rate, "the band"), pace, cancelled=cancelled).samples
    else:
        part = excerpt(score, phrase.start_s, phrase.end_s, pace=pace)
        if kind is LoopKind.BAND:
            sound = backing(part, duration_s=length / rate, sample_rate=rate, parts=BAND).samples
        else:
            sound = render(part, sample_rate=rate, duration_s=length / rate, cancelled=cancelled).samples
    return _faded(_two_sides(sound), length, rate)


def _two_sides(sound: FloatArray) -> FloatArray:
    return np.repeat(sound, 2, axis=1) if sound.shape[1] == 1 else sound[:, :2]


def _faded(sound: FloatArray, length: int, rate: int) -> FloatArray:
    """Exactly so long, its edges smooth."""
    whole = np.zeros((length, 2), dtype=np.float32)
    part = sound[:length]
    whole[: part.shape[0]] = part
    fade = min(round(FADE_S * rate), length // 2)
    rise = np.linspace(0.0, 1.0, fade, dtype=np.float32)[:, None]
    whole[:fade] *= rise
    whole[length - fade :] *= rise[::-1]
    return whole


def _clicks_before(score: Score, phrase: Phrase, pace: float, rate: int) -> FloatArray:
    return CLICK_LEVEL * counted_in(score.beat_map, phrase.start_s, pace, rate)


def _with_click(score: Score, phrase: Phrase, pace: float, sound: FloatArray, side: ClickSide, rate: int) -> FloatArray:
    """The music on one side and clicks on the other, where that is wanted and there are beats."""
    if side is ClickSide.NONE or not score.beat_map.known:
        return sound
    part = excerpt(score, phrase.start_s, phrase.end_s, pace=pace)
    clicks = backing(part, duration_s=sound.shape[0] / rate, sample_rate=rate, parts=("click",)).samples.mean(axis=1)
    beats, music = np.zeros(sound.shape[0], dtype=np.float32), sound.mean(axis=1)
    beats[: clicks.size] = CLICK_LEVEL * clicks[: sound.shape[0]]
    pair = (beats, music) if side is ClickSide.LEFT else (music, beats)
    return np.stack(pair, axis=1).astype(np.float32)


def _limited(sound: FloatArray) -> FloatArray:
    peak = float(np.abs(sound).max()) if sound.size else 0.0
    return sound * np.float32(PEAK / peak) if peak > PEAK else sound


def encoded(clip: Clip, kind: SoundKind) -> bytes:
    """Return a clip as the bytes of a sound file."""
    stream = io.BytesIO()
    write_clip(clip, stream, kind=kind.upper())
    return stream.getvalue()


def phrase_file(score: Score, phrase: Phrase) -> str:
    """Return how the files of a phrase are called: its number in the solo, and its name in plain letters."""
    return f"{score.phrases.index(phrase) + 1:02d} {slug(phrase.name or 'phrase')}"


def slug(name: str) -> str:
    """Return a name in plain letters that every file system takes."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    return re.sub(r"[^A-Za-z0-9]+", "-", plain).strip("-").lower()[:40] or "phrase"


def rungs_from_text(text: str) -> tuple[float, ...]:
    """Read rungs as they are said, in percent: "50, 70, 100". Raises: PackError."""
    try:
        rungs = tuple(float(word.strip(" %")) / 100 for word in text.split(",") if word.strip())
    except ValueError as problem:
        raise PackError(f"“{text}” are no tempos.", "Give percents such as 50,70,100.") from problem
    return PackChoices(rungs=rungs).rungs


def phrases_from_text(text: str, score: Score) -> tuple[str, ...]:
    """Read which phrases are meant, by their numbers from 1: "1,2"; nothing for all. Returns: their ids.

    Raises: PackError.
    """
    ids = []
    for word in (word.strip() for word in text.split(",")):
        if not word or word == "all":
            continue
        if not (word.isdecimal() and 1 <= int(word) <= len(score.phrases)):
            there = f"There are phrases 1 to {len(score.phrases)}." if score.phrases else "There are none yet."
            raise PackError(f"There is no phrase {word!r}.", there)
        ids.append(score.phrases[int(word) - 1].id)
    return tuple(dict.fromkeys(ids))


# --- what is read ---
def phrase_rows(loops: Sequence[PackedLoop]) -> Mapping[str, list[PackedLoop]]:
    """Return the loops of each phrase, by its id, in the solo's order."""
    rows: dict[str, list[PackedLoop]] = {}
    for loop in loops:
        rows.setdefault(loop.phrase.id, []).append(loop)
    return rows
