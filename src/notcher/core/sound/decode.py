"""Sound files in and out, through libsndfile; resampling through soxr."""

import os
from pathlib import Path
from typing import BinaryIO

import numpy as np
import soundfile
import soxr

from notcher.core.arrays import FloatArray
from notcher.core.errors import NotcherError
from notcher.core.sound.clip import Clip

SOUND_ENDINGS = "*.wav *.flac *.ogg *.opus *.mp3 *.aif *.aiff"
"""What can be decoded, as file dialogs want it."""
LONGEST_S = 3 * 3600.0
"""Above this a recording is a concert or a mistake: cut the solo out of it first."""


class AudioError(NotcherError):
    """A recording cannot be read or is of no use."""


def read_clip(path: str | os.PathLike[str]) -> Clip:
    """Decode a whole sound file (WAV, FLAC, OGG, Opus, MP3, AIFF).

    Raises: AudioError when the file is missing, is no sound, is empty, too long or holds no finite samples.
    """
    file = Path(path)
    if not file.is_file():
        raise AudioError(f"There is no file {file.name!r} at that place.", "Check the name and the folder.")
    try:
        with soundfile.SoundFile(file) as source:
            if source.frames > LONGEST_S * source.samplerate:
                raise AudioError(
                    f"{file.name!r} claims to last {source.frames / source.samplerate / 3600:.1f} hours.",
                    "Cut the solo out of it and open that.",
                )
            samples = source.read(dtype="float32", always_2d=True)
            sample_rate = source.samplerate
    except (soundfile.LibsndfileError, RuntimeError, OSError, MemoryError) as problem:
        raise AudioError(
            f"{file.name!r} cannot be read as sound.",
            "Open a WAV, FLAC, OGG, Opus, MP3 or AIFF file, or export the recording again.",
        ) from problem
    return _checked(samples, sample_rate, file.name)


def read_clip_stream(stream: BinaryIO, name: str) -> Clip:
    """Decode sound from an open binary stream, such as one entry of an archive.

    Raises: AudioError when it is no sound.
    """
    try:
        samples, sample_rate = soundfile.read(stream, dtype="float32", always_2d=True)
    except (soundfile.LibsndfileError, RuntimeError, OSError) as problem:
        raise AudioError(f"The recording {name!r} is damaged.", "Open the original recording again.") from problem
    return _checked(samples, sample_rate, name)


def _checked(samples: FloatArray, sample_rate: int, name: str) -> Clip:
    if samples.shape[0] == 0:
        raise AudioError(f"{name!r} holds no sound at all.", "Export the recording again.")
    if not np.isfinite(samples).all():
        samples = np.nan_to_num(samples, nan=0.0, posinf=0.0, neginf=0.0)
    return Clip(samples, int(sample_rate), name)


def write_clip(clip: Clip, target: str | os.PathLike[str] | BinaryIO, *, kind: str = "FLAC") -> None:
    """Encode a clip; FLAC and WAV keep 24 bits, OGG is lossy and written in five-second blocks.

    Samples beyond full scale are lowered together rather than clipped one by one.
    """
    subtype = {"FLAC": "PCM_24", "WAV": "PCM_24", "OGG": "VORBIS"}[kind]
    samples = clip.samples
    peak = float(np.max(np.abs(samples))) if samples.size else 0.0
    if peak > 1.0:
        samples = samples / peak
    block = 5 * clip.sample_rate
    with soundfile.SoundFile(
        target, "w", samplerate=clip.sample_rate, channels=clip.channels, format=kind, subtype=subtype
    ) as sink:
        for first in range(0, samples.shape[0], block):
            sink.write(samples[first : first + block])


def resampled(samples: FloatArray, *, from_rate: int, to_rate: int) -> FloatArray:
    """Return sound at another sample rate; shape (n,) or (n, channels) is kept."""
    if from_rate == to_rate:
        return samples
    result: FloatArray = soxr.resample(np.ascontiguousarray(samples), from_rate, to_rate, quality="HQ")
    return result
