"""What stands above each other in a line of music."""

from dataclasses import dataclass, field

from notcher.core.score import Meter, Phrase
from notcher.core.score.notation import NotatedPiece
from notcher.core.sheets.breaking import FORBIDDEN


@dataclass(slots=True)
class Column:
    """Things that stand above each other, or a bar line. Extents are from its middle, millimetres.

    start: ticks, or microseconds where no beat is known. quarters: to the next column. pieces: the signs that begin
    here, each with its voice. extra: notes that are written on the place of the column before, on the same string; they
    have no rhythm of their own. after: room that gestures need behind it. meter: a meter written here. time_s: in the
    recording.
    """

    start: int
    quarters: float
    bar: int
    time_s: float
    pieces: list[tuple[int, NotatedPiece]] = field(default_factory=list)
    line: str = ""  # kind of a bar line: bar, final, begin, end
    meter: Meter | None = None
    folded: str = ""
    left: float = 0.0
    right: float = 0.0
    after: float = 0.0
    extra: bool = False
    penalty: float = FORBIDDEN
    phrase: Phrase | None = None
    says: str = ""

    indices: tuple[int, ...] = field(init=False, default=())  # of the notes that are struck here
    held: tuple[int, ...] = field(init=False, default=())  # of those that go on here

    def __post_init__(self) -> None:
        self.indices = tuple(index for _, piece in self.pieces if not piece.tied_from for index in piece.indices)
        self.held = tuple(index for _, piece in self.pieces if piece.tied_from for index in piece.indices)
