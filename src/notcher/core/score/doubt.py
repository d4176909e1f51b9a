"""Why a note is doubted: a kind and its measure, never a sentence; `words` says it."""

from dataclasses import dataclass
from enum import StrEnum

from notcher.core.score.vocabulary import Tone


class DoubtKind(StrEnum):
    """What is in doubt; behind each what `amount` holds."""

    BY_HAND = "by_hand"
    UNSURE = "unsure"  # how sure the note is, 0..1
    WEAK_PITCH = "weak_pitch"  # how sure the note is, 0..1
    TONE = "tone"  # how sure the tone is, 0..1
    SLID = "slid"  # how sure it is that the note was slid to, 0..1
    BETWEEN_SIZES = "between_sizes"  # the bend, cents
    OFF_FRET = "off_fret"  # how far from its fret, cents
    EQUAL_PLACE = "equal_place"  # see `place`
    OFF_BEAT = "off_beat"  # seconds behind the written time, early is negative
    NOT_HEARD_AGAIN = "not_heard_again"  # a person made it, and a new hearing did not find it
    NOT_FOUND = "not_found"  # written by hand, and not found in the recording it was laid over
    NOT_AS_WRITTEN = "not_as_written"  # in a take
    NO_PITCH = "no_pitch"  # of a whole recording: how sure its surest note is, 0..1
    NEVER_RESTS = "never_rests"  # of a whole recording: the share of its notes that rest on a fret, 0..1
    OTHER = "other"  # told in words by an older document


@dataclass(frozen=True, slots=True)
class Doubt:
    """One reason to doubt a note.

    amount: in the unit of its kind. tone: of which kind of tone, for TONE. place: the other string and fret, for
    EQUAL_PLACE. text: as an older document said it, for OTHER.
    """

    kind: DoubtKind
    amount: float = 0.0
    tone: Tone | None = None
    place: tuple[int, int] | None = None
    text: str = ""


BY_HAND = Doubt(DoubtKind.BY_HAND)
