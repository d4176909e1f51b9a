"""Recordings: decoding, choosing channels, overviews for drawing, slowing down."""

from notcher.core.sound.clip import Clip, LaidClip, beside, peak_dbfs, peak_level
from notcher.core.sound.decode import SOUND_ENDINGS, AudioError, read_clip, resampled, write_clip
from notcher.core.sound.focus import FOCUSES, banded, focused, has_middle, is_wide
from notcher.core.sound.overview import Overview
from notcher.core.sound.spectrogram import Spectrogram, spectrogram
from notcher.core.sound.stretch import stretched

__all__ = [
    "FOCUSES",
    "SOUND_ENDINGS",
    "AudioError",
    "Clip",
    "LaidClip",
    "Overview",
    "Spectrogram",
    "banded",
    "beside",
    "focused",
    "has_middle",
    "is_wide",
    "peak_dbfs",
    "peak_level",
    "read_clip",
    "resampled",
    "spectrogram",
    "stretched",
    "write_clip",
]
