"""All that can be played along with, side by side: each part is a channel or two of one clip, mixed while it plays."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, never_cancelled
from notcher.core.mixing.levels import Levels
from notcher.core.score import Score, excerpt
from notcher.core.sound import Clip, LaidClip, focused, is_wide
from notcher.core.synthesis import backing, coloured, render

BAND = ("strum", "bass", "drums")
USUAL_RATE = 44_100  # of compact discs


@dataclass(frozen=True, slots=True)
class Channel:
    """One channel: which of `Levels` it is, and where it stands by itself, -1 left, 1 right, 0 where its part does."""

    part: str
    side: int = 0


class MissingPart(StrEnum):
    """Why a part of the mix cannot be heard, or cannot be softer."""

    NO_RECORDING = "no_recording"
    NO_PICTURE = "no_picture"
    NO_NOTES = "no_notes"
    NO_BEATS = "no_beats"
    NO_CHORDS = "no_chords"


def missing_parts(recording: Clip | None, score: Score) -> dict[str, MissingPart]:
    """Return the parts whose volume cannot act, by their names in `Levels`, and why."""
    missing: dict[str, MissingPart] = {}
    if recording is None:
        missing |= dict.fromkeys(("recording", "lead"), MissingPart.NO_RECORDING)
    elif not has_lead_apart(recording):
        missing["lead"] = MissingPart.NO_PICTURE
    if not score.notes:
        missing["tab"] = MissingPart.NO_NOTES
    if not score.beat_map.known:
        missing |= dict.fromkeys(("band", "click"), MissingPart.NO_BEATS)
    elif not score.chords:
        missing["band"] = MissingPart.NO_CHORDS
    return missing


def mixed(
    recording: Clip | None,
    score: Score,
    start_s: float,
    end_s: float,
    *,
    levels: Levels,
    amp: str = "clean",
    cancelled: CancelCheck = never_cancelled,
) -> tuple[LaidClip, tuple[Channel, ...]]:
    """Make what is wanted of a stretch: the recording, the tab as written, the band, the clicks.

    levels: what is silent is not made. The lead is taken out of the recording only where it is asked for and there is a
    stereo picture: what both sides share is the lead, the rest stays with the recording.
    Returns: the sound from start_s to end_s at its place, and what each channel is. Raises: Cancelled.
    """
    rate = recording.sample_rate if recording is not None else USUAL_RATE
    length = round((end_s - start_s) * rate)
    pictures: list[FloatArray] = []
    channels: list[Channel] = []

    def add(part: str, sound: FloatArray) -> None:
        if cancelled():
            raise Cancelled
        whole = np.zeros((length, sound.shape[1]), dtype=np.float32)
        whole[: sound.shape[0]] = sound[:length]
        pictures.append(whole)
        channels.extend([Channel(part)] if sound.shape[1] == 1 else [Channel(part, -1), Channel(part, 1)])

    if recording is not None and levels.recording > 0:
        for part, sound in of_recording(recording.cut(start_s, end_s), apart=levels.lead != 1.0):
            add(part, sound)
    piece = excerpt(score, start_s, end_s)
    if levels.tab > 0 and piece.notes:
        tab = render(piece, sample_rate=rate, duration_s=end_s - start_s, cancelled=cancelled)
        add("tab", coloured(tab.samples[:, 0], amp, sample_rate=rate)[:, None])
    for part, hands, level in (("band", BAND, levels.band), ("click", ("click",), levels.click)):
        if level > 0 and score.beat_map.known:
            sound = backing(piece, duration_s=end_s - start_s, sample_rate=rate, parts=hands).samples
            add(part, sound if part == "band" else sound.mean(axis=1, keepdims=True))
    if not pictures:
        add("recording", np.zeros((length, 1), dtype=np.float32))
    groups = tuple(picture.shape[1] for picture in pictures)
    return LaidClip(np.concatenate(pictures, axis=1), rate, "the mix", groups, start_s), tuple(channels)


def has_lead_apart(clip: Clip) -> bool:
    """Return whether the stereo picture tells the lead from what is beside it."""
    return clip.channels == 2 and is_wide(clip)


def of_recording(clip: Clip, *, apart: bool) -> list[tuple[str, FloatArray]]:
    """Return a recording as its parts; apart: the lead by itself, where the stereo picture allows."""
    sound = clip.samples[:, :2]
    if not (apart and has_lead_apart(clip)):
        return [("recording", sound)]
    lead = focused(clip, "auto")[:, None]  # as each side has it
    return [("recording", sound - lead), ("lead", lead)]


def matrix(channels: tuple[Channel, ...], levels: Levels) -> FloatArray:
    """Return how loud each channel is on the left and on the right, shape (channels, 2).

    A part in the middle is as loud on both sides as it is; towards a side the other one falls silent. The lead goes
    with the recording.
    """
    rows = []
    for channel in channels:
        level = getattr(levels, channel.part)
        place = getattr(levels.places, channel.part)
        if channel.part == "lead":
            level *= levels.recording
        left_gain, right = min(1.0, 1.0 - place), min(1.0, 1.0 + place)
        if channel.side:
            left_gain, right = (left_gain, 0.0) if channel.side < 0 else (0.0, right)
        rows.append((level * left_gain, level * right))
    return np.array(rows, dtype=np.float32)
