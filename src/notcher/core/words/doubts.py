"""Why a note is doubted, and why it does not lie elsewhere, in sentences."""

from notcher.core.neck import PlacingObstacle, PlacingReason
from notcher.core.score import Doubt, DoubtKind, Tuning
from notcher.core.words.bends import sizes_around
from notcher.core.words.naming import USUAL, Naming
from notcher.core.words.numbers import figure, many
from notcher.core.words.pitches import place_name
from notcher.core.words.techniques import TONES

CRAMPED_FROM = 12  # above this fret a place is cramped, below it is low


def doubt_words(doubt: Doubt, tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return one reason to doubt a note."""
    kind, amount = doubt.kind, doubt.amount
    if kind is DoubtKind.UNSURE:
        return f"{amount:.0%} sure of this note"
    if kind is DoubtKind.WEAK_PITCH:
        return f"{amount:.0%} sure of this note: weak pitch"
    if kind is DoubtKind.TONE and doubt.tone is not None:
        return f"{amount:.0%} sure that it is a {TONES[doubt.tone]}"
    if kind is DoubtKind.SLID:
        return f"{amount:.0%} sure that it was slid to"
    if kind is DoubtKind.BETWEEN_SIZES:
        return f"bend of {amount:.0f} cents: between {sizes_around(amount / 100, naming)}"
    if kind is DoubtKind.OFF_FRET:
        return f"{figure(amount, signed=True)} cents off its fret"
    if kind is DoubtKind.EQUAL_PLACE and doubt.place is not None:
        return f"two places are as easy: also {place_name(tuning, *doubt.place, naming)}"
    if kind is DoubtKind.OFF_BEAT:
        return f"{abs(amount) * 1000:.0f} ms {'behind' if amount > 0 else 'ahead of'} the beat"
    if kind is DoubtKind.NO_PITCH:
        return "probably no guitar lead: hardly anything in it holds a pitch"
    if kind is DoubtKind.NEVER_RESTS:
        return f"probably no guitar lead: only {amount:.0%} of the notes rest on a fret, as in speech or song"
    if kind is DoubtKind.NOT_HEARD_AGAIN:
        return "you wrote it, and it was not heard again"
    if kind is DoubtKind.NOT_FOUND:
        return "not found in the recording: when it begins is a guess"
    if kind is DoubtKind.NOT_AS_WRITTEN:
        return "not played as written"
    return "marked by hand" if kind is DoubtKind.BY_HAND else doubt.text


def reason_words(reason: PlacingReason) -> str:
    """Return why a place costs more than the chosen one."""
    return {
        PlacingObstacle.SHIFT: f"costs a shift of {many(round(reason.amount), 'fret')}",
        PlacingObstacle.CROSSING: "costs more crossing of strings",
        PlacingObstacle.FINGER: "one finger would have to jump to another string",
        PlacingObstacle.HELD: "two notes that sound together would share a string",
        PlacingObstacle.SLIDE: "a slide would have to change fingers",
        PlacingObstacle.STRETCH: f"costs a stretch of {reason.amount:.0f} mm",
        PlacingObstacle.HEIGHT: "lies where the neck is cramped and the tone thin"
        if reason.amount > CRAMPED_FROM
        else "lies low on the neck",
        PlacingObstacle.OPEN: "an open string cannot be held back or shaken",
        PlacingObstacle.BEND: "is hard to bend there",
        PlacingObstacle.WISH: "lies away from the wished position",
        PlacingObstacle.HOME: "lies away from the box that the scale leans on",
        PlacingObstacle.SOUND: "sounds like another string",
        PlacingObstacle.SHAPE: "leaves the strings where this lick lay before",
        PlacingObstacle.PARTED: "would part it from a note that it runs into or sounds with",
    }[reason.kind]
