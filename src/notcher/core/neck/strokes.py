"""Which way the pick moves: three styles (common practice, no source).

A down stroke goes from the low strings towards the high ones.
"""

from collections.abc import Sequence

from notcher.core.score import Attack, Note, PickStroke, struck_together

PICKING_STYLES = ("alternate", "economy", "sweep")
RESTART_S = 0.6  # after a rest the pick begins with a downstroke
SWEPT_STRINGS = 3  # two are also alternate picking


def strokes(notes: Sequence[Note], *, style: str = "alternate") -> list[PickStroke | None]:
    """Return each note's pick stroke; None where no pick strikes.

    notes: in time order. style: alternate goes strictly down and up; economy keeps its direction into the next
    string when that lies on the way; sweep does so only over three strings and more with one note each.
    Raises: ValueError for an unknown style.
    """
    if style not in PICKING_STYLES:
        raise ValueError(f"the picking style must be one of {', '.join(PICKING_STYLES)}")
    picked = [index for index, note in enumerate(notes) if note.attack in (Attack.PICK, Attack.REPICK)]
    swept = _swept(notes, picked) if style == "sweep" else {}
    pick_strokes: list[PickStroke | None] = [None] * len(notes)
    last = None
    for index in picked:
        note, before = notes[index], notes[last] if last is not None else None
        if index in swept:
            pick_strokes[index] = swept[index]
        elif before is None or last is None or note.onset_s - before.offset_s > RESTART_S:
            pick_strokes[index] = PickStroke.DOWN
        elif struck_together(before.onset_s, note.onset_s):
            pick_strokes[index] = pick_strokes[last]  # one stroke over several strings
        else:
            way = _way(before, note) if style == "economy" else None
            pick_strokes[index] = way or (PickStroke.UP if pick_strokes[last] is PickStroke.DOWN else PickStroke.DOWN)
        last = index
    return pick_strokes


def _way(before: Note, note: Note) -> PickStroke | None:
    """The stroke that travels from one string to the other; None on the same string."""
    if note.string == before.string:
        return None
    return PickStroke.DOWN if note.string < before.string else PickStroke.UP


def _swept(notes: Sequence[Note], picked: Sequence[int]) -> dict[int, PickStroke]:
    """The stroke of every note in a run of single notes on neighbouring strings, all one way."""
    pick_strokes: dict[int, PickStroke] = {}
    run: list[int] = []
    for index in picked:
        step = notes[index].string - notes[run[-1]].string if run else 0
        apart = run and not struck_together(notes[run[-1]].onset_s, notes[index].onset_s)
        if len(run) > 1 and step != notes[run[-1]].string - notes[run[-2]].string:
            run = run[-1:]
        run = [*run, index] if apart and abs(step) == 1 else [index]
        if len(run) >= SWEPT_STRINGS:
            way = PickStroke.DOWN if step < 0 else PickStroke.UP
            pick_strokes |= dict.fromkeys(run, way)
    return pick_strokes
