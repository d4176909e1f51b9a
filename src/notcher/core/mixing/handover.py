"""Streams that follow one another without a seam."""

from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

import numpy as np

from notcher.core.arrays import FloatArray

FADE_S = 0.012  # long enough for no click, too short for an echo


class Readable(Protocol):
    """Stereo sound that can be read from any sample on."""

    @property
    def sample_rate(self) -> int: ...

    def read(self, first: int, count: int) -> FloatArray: ...


T = TypeVar("T", bound=Readable)


@dataclass(frozen=True, slots=True)
class Turn(Generic[T]):
    """From sample `begin` on a stream is heard, from its own sample `offset` on. sharp: it does not fade in."""

    begin: int
    stream: T
    offset: int = 0
    sharp: bool = False

    def local(self, position: int) -> int:
        """Return the stream's own sample that is heard at one of the whole."""
        return position - self.begin + self.offset


class Handover(Generic[T]):
    """What a loudspeaker reads while one stream takes over from another, at a sample, each fading into the next."""

    def __init__(self, stream: T) -> None:
        self.sample_rate = stream.sample_rate
        self._turns: tuple[Turn[T], ...] = (Turn(0, stream),)
        self._fade = round(FADE_S * stream.sample_rate)
        self.asked = 0
        """What lies before this sample was read, and cannot be changed any more."""

    def follow(self, turn: Turn[T]) -> None:
        """Let a stream take over; what was to take over after it does not. Raises: ValueError when that was read."""
        if turn.begin < self.asked:
            raise ValueError(f"sample {turn.begin} was read already")
        self._turns = (*(before for before in self._turns if before.begin < turn.begin), turn)

    def drop_from(self, position: int) -> None:
        """Let nothing take over at a sample or later; what was read already stays."""
        first = max(position, self.asked, 1)
        self._turns = tuple(turn for turn in self._turns if turn.begin < first)

    def stay(self) -> None:
        """What was to take over and is not read yet does not."""
        self._turns = tuple(turn for turn in self._turns if turn.begin < max(1, self.asked))

    def turn_at(self, position: int) -> Turn[T]:
        """Return what is heard at a sample."""
        return next(turn for turn in reversed(self._turns) if turn.begin <= max(0, position))

    def read(self, first: int, count: int) -> FloatArray:
        """Return samples first..first+count, shape (count, 2)."""
        self.asked = max(self.asked, first + count)
        result = np.zeros((count, 2), dtype=np.float32)
        for turn, after in zip(self._turns, (*self._turns[1:], None), strict=True):
            low = max(first, turn.begin)
            high = min(first + count, after.begin + self._fade) if after is not None else first + count
            if low >= high:
                continue
            places = np.arange(low, high)
            share = np.ones(high - low)
            if turn is not self._turns[0] and not turn.sharp:
                share *= np.clip((places - turn.begin) / self._fade, 0, 1)
            if after is not None:
                share *= np.clip(1 - (places - after.begin) / self._fade, 0, 1)
            result[low - first : high - first] += turn.stream.read(turn.local(low), high - low) * share[:, None]
        return result
