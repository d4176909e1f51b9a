"""How practice went: results of takes, and marks of rungs; they belong to a student and are no part of the score."""

from dataclasses import dataclass
from enum import StrEnum

from notcher.core.score.identity import is_id


class Result(StrEnum):
    """How a phrase went."""

    CLEAN = "clean"
    SHAKY = "shaky"
    MISSED = "missed"


@dataclass(frozen=True, slots=True)
class Mark:
    """One cell of the practice board: the ids of its phrases (two of a join), a pace, how it went."""

    phrases: tuple[str, ...]
    pace: float
    result: Result

    def __post_init__(self) -> None:
        if not self.phrases or not 0 < self.pace <= 4:
            raise ValueError(f"a mark needs a phrase and a pace: {self}")


@dataclass(frozen=True, slots=True)
class Take:
    """What a student played of a stretch; its sound is kept beside it, under its id.

    phrases: the ids of what was played. start_s, end_s: the stretch as it was then. pace: of the recorded tempo.
    along: what was played along with. begin_s: when in the take the stretch was due; None without a beat or without a
    measured delay. made_at: ISO 8601, local time. student: the id of who played, while it is not in the ledger.
    """

    id: str
    name: str
    phrases: tuple[str, ...]
    start_s: float
    end_s: float
    pace: float
    along: str
    begin_s: float | None = None
    made_at: str = ""
    student: str = ""

    def __post_init__(self) -> None:
        if not (0 <= self.start_s < self.end_s < 1e6 and 0 < self.pace <= 4):
            raise ValueError(f"a take needs a stretch and a pace: {self}")
        if not is_id(self.id):
            raise ValueError(f"{self.id!r} is no id of a take")
