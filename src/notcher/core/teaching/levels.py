"""How loud each thing is that can sound together."""

from dataclasses import dataclass

LOUDEST = 2.0


@dataclass(frozen=True, slots=True)
class Levels:
    """Factors of the amplitude, 0..`LOUDEST`, 1 as it is: the recording, the tab as written, the band, the clicks."""

    recording: float = 1.0
    tab: float = 1.0
    band: float = 1.0
    click: float = 1.0
