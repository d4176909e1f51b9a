"""How loud each thing is that can sound together, and where it stands."""

from dataclasses import dataclass

LOUDEST = 2.0  # 6 dB over what was recorded


@dataclass(frozen=True, slots=True)
class Pan:
    """Where each part stands, -1 left, 1 right."""

    recording: float = 0.0
    tab: float = 0.0
    band: float = 0.0
    click: float = 0.0
    lead: float = 0.0
    guitar: float = 0.0


MIDDLE = Pan()


@dataclass(frozen=True, slots=True)
class Levels:
    """Factors of the amplitude, 0..`LOUDEST`, 1 as it is: the recording, the tab as written, the band, the clicks.

    lead: what stands in the middle of the recording's picture; the recording's own level is on top of it. guitar: the
    student's input, 0 where it is heard by itself. places: where each stands.
    """

    recording: float = 1.0
    tab: float = 1.0
    band: float = 1.0
    click: float = 1.0
    lead: float = 1.0
    guitar: float = 0.0
    places: Pan = MIDDLE
