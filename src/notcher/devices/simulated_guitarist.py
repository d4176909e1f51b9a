"""A guitarist for machines without one: performs what is expected, with a named skill, in real time."""

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QObject

from notcher.core.arrays import FloatArray
from notcher.core.score import Score
from notcher.core.sound import Clip, resampled
from notcher.core.synthesis import SKILLS, performed, render
from notcher.devices.guitar_input import GuitarInput

RATE = 44_100  # Hz
USUAL_LATENCY_S = 0.12  # what a sound server adds there and back (common practice, no source)
LEVEL_S = 0.05  # the level is of the last so long


class SimulatedGuitarist(GuitarInput):
    """Hears nothing, so it is told what to play; what it plays comes `latency_s` late, as through real devices.

    skill: a name of `SKILLS`. seed: of all its chance. speed: how many seconds pass in one, for tests.
    """

    simulated = True

    def __init__(
        self,
        parent: QObject | None = None,
        *,
        skill: str = "steady hand",
        seed: int = 1,
        latency_s: float = USUAL_LATENCY_S,
        speed: float = 1.0,
    ) -> None:
        super().__init__(parent)
        self.skill, self.seed, self.latency_s = SKILLS[skill], seed, latency_s
        self._speed = speed
        self._clock = QElapsedTimer()
        self._sound: FloatArray = np.zeros(0, dtype=np.float32)

    @property
    def description(self) -> str:  # type: ignore[override]
        return f"simulated guitarist: {self.skill.name}"

    @property
    def recording(self) -> bool:
        return self._clock.isValid()

    @property
    def sample_rate(self) -> int:
        return RATE

    @property
    def position(self) -> int:
        return round(self._clock.nsecsElapsed() * 1e-9 * self._speed * RATE) if self.recording else 0

    @property
    def level(self) -> float:
        last = self.position
        part = self._sound[max(0, last - round(LEVEL_S * RATE)) : last]
        return float(np.abs(part).max()) if part.size else 0.0

    def play_as(self, skill: str) -> None:
        self.skill = SKILLS[skill]

    def expect(self, score: Score, begin_s: float) -> None:
        """Get ready to perform a score; its zero falls `begin_s` after `start`."""
        played = performed(score, self.skill, seed=self.seed, begin_s=begin_s + self.latency_s)
        self._sound = render(played.score, sample_rate=RATE, seed=self.seed).samples[:, 0]

    def expect_sound(self, clip: Clip, begin_s: float) -> None:
        """Get ready to hear the loudspeaker: it arrives softer, and late."""
        mono = resampled(clip.samples, from_rate=clip.sample_rate, to_rate=RATE).mean(axis=1)
        lead = np.zeros(round((begin_s + self.latency_s) * RATE), dtype=np.float32)
        self._sound = np.concatenate([lead, 0.3 * mono]).astype(np.float32)

    def start(self) -> bool:
        self._clock.start()
        return True

    def since(self, position: int) -> FloatArray:
        samples = np.zeros(max(0, self.position - position), dtype=np.float32)
        part = self._sound[position : position + samples.size]
        samples[: part.size] = part
        return samples

    def stop(self) -> Clip:
        samples = self.since(0)
        self._clock.invalidate()
        return Clip(samples[:, None], RATE, "take")
