"""Makes the demo's recordings from its score: `./dev compose`.

The lead is played by the string model; the band (pad, bass, drums) is plain synthesis spread over the stereo picture,
so that the lead in the middle can be focused on.
"""

from pathlib import Path

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.formats import Document, write_document
from notcher.core.proving import driven, render
from notcher.core.score import Score, midi_to_hz
from notcher.core.sound import Clip, write_clip
from notcher.demo.solo import BEAT_S, FIRST_BEAT_S, demo_score

RATE = 44_100
ROOTS = {"C": 48, "D": 50, "E": 52, "G": 43, "A": 45, "B": 47}
LEAD_GAIN, PAD_GAIN, BASS_GAIN, DRUM_GAIN = 0.62, 0.1, 0.2, 0.2


def main() -> None:
    """Write both recordings and the true score beside this file."""
    score = demo_score()
    dry = render(score, sample_rate=RATE)
    lead = driven(dry.samples[:, 0], gain=2.5)
    folder = Path(__file__).parent
    write_clip(Clip(lead[:, None] * np.float32(0.9), RATE), folder / "lantern-watch-lead.ogg", kind="OGG")
    write_document(Document(score), folder / "lantern-watch-as-composed.notch")
    band = _band(score, lead.size)
    mix = band + LEAD_GAIN * np.repeat(lead[:, None], 2, axis=1)
    mix *= 0.85 / np.max(np.abs(mix))
    write_clip(Clip(mix.astype(np.float32), RATE), folder / "lantern-watch-mix.ogg", kind="OGG")


def _band(score: Score, length: int) -> FloatArray:
    """Return the backing, shape (length, 2): pads wide, bass and drums in the middle."""
    sound = np.zeros((length + RATE, 2))
    noise = np.random.default_rng(7)
    beats = int((length / RATE - FIRST_BEAT_S) / BEAT_S)
    for beat in range(beats):
        at_s = FIRST_BEAT_S + beat * BEAT_S
        chord = score.chord_at(at_s)
        root = ROOTS[chord[0]] + score.tuning.open_midi[0] - 64
        if beat % 4 == 0:
            _pad(sound, at_s, root, minor="m" in chord)
        _add(sound, at_s, BASS_GAIN * _bass(root - 12, BEAT_S * 0.9, score.tuning.offset_cents), 0.5)
        _add(sound, at_s, DRUM_GAIN * (_kick() if beat % 2 == 0 else _snare(noise)), 0.5)
        for half in (0, 0.5):
            _add(sound, at_s + half * BEAT_S, 0.35 * DRUM_GAIN * _hat(noise), 0.8)
    return sound[:length]


def _add(sound: FloatArray, at_s: float, part: FloatArray, right: float) -> None:
    """Lay one channel into the picture at a place from 0 (left) to 1 (right), equal power."""
    first = round(at_s * RATE)
    part = part[: sound.shape[0] - first]
    sound[first : first + part.size, 0] += part * np.cos(right * np.pi / 2) * np.sqrt(2)
    sound[first : first + part.size, 1] += part * np.sin(right * np.pi / 2) * np.sqrt(2)


def _pad(sound: FloatArray, at_s: float, root: float, *, minor: bool) -> None:
    """A held chord, its notes spread left and right."""
    times_s = np.arange(round(4 * BEAT_S * RATE)) / RATE
    shape = np.minimum(times_s / 0.15, 1) * np.minimum((times_s[-1] - times_s) / 0.2, 1)
    for step, right in ((0, 0.12), (3 if minor else 4, 0.88), (7, 0.2), (12, 0.8)):
        hertz = midi_to_hz(root + step, offset_cents=14)
        tone = sum(np.sin(2 * np.pi * hertz * k * times_s + k) / k**1.6 for k in (1, 2, 3, 4))
        _add(sound, at_s, PAD_GAIN * shape * tone, right)


def _bass(midi: float, length_s: float, cents: float) -> FloatArray:
    times_s = np.arange(round(length_s * RATE)) / RATE
    hertz = midi_to_hz(midi, offset_cents=cents)
    tone = np.sin(2 * np.pi * hertz * times_s) + 0.4 * np.sin(4 * np.pi * hertz * times_s)
    return np.asarray(
        tone * np.exp(-times_s / 0.5) * np.minimum(times_s / 0.005, 1) * np.minimum((length_s - times_s) / 0.03, 1)
    )


def _kick() -> FloatArray:
    times_s = np.arange(round(0.25 * RATE)) / RATE
    phase = 2 * np.pi * (48 * times_s + 1.8 * (1 - np.exp(-times_s / 0.02)))
    return np.asarray(np.sin(phase) * np.exp(-times_s / 0.07))


def _snare(noise: np.random.Generator) -> FloatArray:
    times_s = np.arange(round(0.18 * RATE)) / RATE
    hiss = noise.standard_normal(times_s.size) * np.exp(-times_s / 0.04)
    return np.asarray(0.4 * hiss + 0.5 * np.sin(2 * np.pi * 190 * times_s) * np.exp(-times_s / 0.05))


def _hat(noise: np.random.Generator) -> FloatArray:
    times_s = np.arange(round(0.05 * RATE)) / RATE
    return np.asarray(np.diff(noise.standard_normal(times_s.size + 1)) * np.exp(-times_s / 0.012) * 0.5)


if __name__ == "__main__":
    main()
