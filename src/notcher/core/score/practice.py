"""How a phrase went at a pace; kept with the score so that it is saved and can be undone."""

from dataclasses import dataclass
from enum import StrEnum


class Result(StrEnum):
    """How a phrase went."""

    CLEAN = "clean"
    SHAKY = "shaky"
    MISSED = "missed"


@dataclass(frozen=True, slots=True)
class Mark:
    """One cell of the rung board: a stretch of the recording, a pace, how it went."""

    start_s: float
    end_s: float
    pace: float
    result: Result
