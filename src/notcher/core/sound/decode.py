"""Sound files in and out, through libsndfile; resampling through soxr."""

import os
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import soundfile
import soxr

from notcher.core.arrays import FloatArray
from notcher.core.errors import NotcherError, readable
from notcher.core.sound.clip import Clip

BY_AV = (".m4a", ".mp4", ".aac", ".m4b")
"""What libsndfile does not read; FFmpeg's libraries do, through PyAV."""
SOUND_ENDINGS = "*.wav *.flac *.ogg *.opus *.mp3 *.aif *.aiff " + " ".join(f"*{ending}" for ending in BY_AV)
"""What can be decoded, as file dialogs want it."""
LONGEST_S = 3600.0
"""Above this a recording is a concert or a mistake: cut the solo out of it first. As `score.limits.LAST_S`."""
SAMPLE_RATES = (4_000, 768_000)
"""From a telephone to the fastest converter that is sold."""
MOST_CHANNELS = 64  # more is a damaged header
MP3_RATES = (8_000, 11_025, 12_000, 16_000, 22_050, 24_000, 32_000, 44_100, 48_000)
"""Sample rates of MPEG-1, 2 and 2.5 layer III (ISO/IEC 11172-3 and 13818-3)."""
MOST_BYTES = 640 * 2**20
"""Decoded: an hour of one channel at 44.1 kHz, half an hour of two."""


class AudioError(NotcherError):
    """A recording cannot be read or is of no use."""


def read_clip(path: str | os.PathLike[str]) -> Clip:
    """Decode a whole sound file (WAV, FLAC, OGG, Opus, MP3, AIFF, M4A).

    Raises: AudioError when the file is missing, is no sound, is empty, too long or holds no finite samples.
    """
    file = Path(path)
    if not file.is_file():
        raise AudioError(f"There is no file {file.name!r} at that place.", "Check the name and the folder.")
    remedy = "Open a WAV, FLAC, OGG, Opus, MP3, AIFF or M4A file, or export the recording again."
    if file.suffix.lower() in BY_AV:
        return _read_by_av(file, remedy)
    return _read(os.fsencode(file), readable(file.name), remedy)


def read_clip_stream(stream: BinaryIO, name: str) -> Clip:
    """Decode sound from an open binary stream, such as one entry of an archive.

    Raises: AudioError as `read_clip` does.
    """
    return _read(stream, name, "Open the original recording again.")


@contextmanager
def _unheard() -> Iterator[None]:
    """Keep from the terminal what decoders write there, past Python, of damaged files."""
    with _SILENCE:
        try:
            kept = os.dup(STDERR)
        except OSError:  # there is none
            kept = None
        if kept is not None:
            sys.stderr.flush()
            nowhere = os.open(os.devnull, os.O_WRONLY)
            os.dup2(nowhere, STDERR)
            os.close(nowhere)
        try:
            yield
        finally:
            if kept is not None:
                os.dup2(kept, STDERR)
                os.close(kept)


STDERR = 2
_SILENCE = threading.RLock()
"""One decoder at a time: the terminal is the whole process's."""


def _read(source: bytes | BinaryIO, name: str, remedy: str) -> Clip:
    """Decode what is no longer and no larger than a recording may be, by whichever path it comes."""
    try:
        with _unheard(), soundfile.SoundFile(source) as sound:
            _check_size(sound, name)
            samples = sound.read(dtype="float32", always_2d=True)
            sample_rate = sound.samplerate
    except (soundfile.LibsndfileError, RuntimeError, OSError, MemoryError, ValueError, TypeError) as problem:
        raise AudioError(f"{name!r} cannot be read as sound.", remedy) from problem
    return _checked(samples, sample_rate, name)


def _read_by_av(file: Path, remedy: str) -> Clip:
    """Decode the first sound of a file, stopping at what a recording may be. Raises: AudioError."""
    import av  # slow to load, and few recordings need it

    blocks: list[FloatArray] = []
    try:
        with _unheard(), file.open("rb") as stream_of_file, av.open(stream_of_file, "r") as container:
            if not container.streams.audio:
                raise AudioError(f"{file.name!r} holds no sound.", remedy)
            stream = container.streams.audio[0]
            # a stream of a damaged file may have no decoder, and then none of these
            rate, channels = (int(getattr(stream, name, 0) or 0) for name in ("rate", "channels"))
            if not (SAMPLE_RATES[0] <= rate <= SAMPLE_RATES[1] and 1 <= channels <= MOST_CHANNELS):
                raise AudioError(f"{file.name!r} cannot be read as sound.", remedy)
            resampler = av.AudioResampler(format="fltp", rate=rate)
            most, count = min(LONGEST_S * rate, MOST_BYTES / 4 / channels), 0
            for frame in container.decode(stream):
                for part in resampler.resample(frame):
                    block = part.to_ndarray().T.astype(np.float32)
                    count += block.shape[0]
                    if count > most:
                        raise AudioError(f"{file.name!r} is too long.", "Cut the solo out of it and open that.")
                    blocks.append(block)
    except (av.error.FFmpegError, ValueError, OSError, MemoryError) as problem:
        raise AudioError(f"{file.name!r} cannot be read as sound.", remedy) from problem
    wide = max((block.shape[1] for block in blocks), default=1)
    blocks = [block for block in blocks if block.shape[1] == wide]
    samples = np.concatenate(blocks) if blocks else np.zeros((0, 1), dtype=np.float32)
    return _checked(samples, rate, readable(file.name))


def _check_size(sound: soundfile.SoundFile, name: str) -> None:
    """Refuse what a header claims before anything is made room for. Raises: AudioError."""
    if not SAMPLE_RATES[0] <= sound.samplerate <= SAMPLE_RATES[1] or sound.channels > MOST_CHANNELS:
        raise AudioError(
            f"{name!r} claims {sound.samplerate} samples a second in {sound.channels} channels.",
            f"Export it with {SAMPLE_RATES[0]} to {SAMPLE_RATES[1]} Hz and at most {MOST_CHANNELS} channels.",
        )
    if sound.frames > LONGEST_S * sound.samplerate:
        hours = sound.frames / sound.samplerate / 3600
        raise AudioError(
            f"{name!r} claims to last {hours:.1f} hours; one is the most.", "Cut the solo out of it and open that."
        )
    if 4 * sound.frames * sound.channels > MOST_BYTES:
        raise AudioError(
            f"{name!r} would need {4 * sound.frames * sound.channels / 2**30:.1f} GB of memory; the most is "
            f"{MOST_BYTES / 2**30:.1f} GB: half an hour of two channels.",
            "Cut the solo out of it, or export it in one channel.",
        )


def _checked(samples: FloatArray, sample_rate: int, name: str) -> Clip:
    if samples.shape[0] == 0:
        raise AudioError(f"{name!r} holds no sound at all.", "Export the recording again.")
    if not np.isfinite(samples).all():
        samples = np.nan_to_num(samples, nan=0.0, posinf=0.0, neginf=0.0)
    return Clip(samples, int(sample_rate), name)


class _Watched:
    """A stream whose failure is kept: it is written to from inside the encoder, which lets no exception through."""

    def __init__(self, stream: BinaryIO) -> None:
        self._stream = stream
        self.seek, self.tell, self.read = stream.seek, stream.tell, stream.read
        self.problem: OSError | None = None

    def write(self, data: Any) -> int:
        if self.problem is None:
            try:
                return self._stream.write(data)
            except OSError as problem:
                self.problem = problem
        return 0


def write_clip(clip: Clip, target: str | os.PathLike[str] | BinaryIO, *, kind: str = "FLAC") -> None:
    """Encode a clip; FLAC and WAV keep 24 bits, OGG and MP3 are lossy and written in five-second blocks.

    Samples beyond full scale are lowered together rather than clipped one by one.

    Raises: OSError when a stream does not take what is written.
    """
    subtype = {"FLAC": "PCM_24", "WAV": "PCM_24", "OGG": "VORBIS", "MP3": "MPEG_LAYER_III"}[kind]
    samples = clip.samples
    if kind == "MP3" and clip.sample_rate not in MP3_RATES:
        rate = min(MP3_RATES, key=lambda known: abs(known - clip.sample_rate))
        clip = Clip(resampled(samples, from_rate=clip.sample_rate, to_rate=rate), rate, clip.name)
        samples = clip.samples
    peak = float(np.max(np.abs(samples))) if samples.size else 0.0
    if peak > 1.0:
        samples = samples / peak
    block = 5 * clip.sample_rate
    watched = target if isinstance(target, str | os.PathLike) else _Watched(target)
    try:
        with soundfile.SoundFile(
            watched, "w", samplerate=clip.sample_rate, channels=clip.channels, format=kind, subtype=subtype
        ) as sink:
            for first in range(0, samples.shape[0], block):
                sink.write(samples[first : first + block])
    except (RuntimeError, AssertionError) as problem:  # the encoder's words for bytes that were not taken
        if isinstance(watched, _Watched) and watched.problem is not None:
            raise watched.problem from problem
        raise
    if isinstance(watched, _Watched) and watched.problem is not None:
        raise watched.problem


def resampled(samples: FloatArray, *, from_rate: int, to_rate: int) -> FloatArray:
    """Return sound at another sample rate; shape (n,) or (n, channels) is kept."""
    if from_rate == to_rate:
        return samples
    result: FloatArray = soxr.resample(np.ascontiguousarray(samples), from_rate, to_rate, quality="HQ")
    return result
