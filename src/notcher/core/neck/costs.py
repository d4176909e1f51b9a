"""What everything costs the hand: the placing solver's numbers, all in one place.

The unit is the cost of one fret's travel with plenty of time, times ten thirds; only ratios matter. Each number puts
common practice into figures (no source) and was weighed on method-book shapes (`./dev bench placing`).
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class PlacingCosts:
    """Costs by what causes them; distances are frets unless a name says otherwise."""

    forbidden: float = 1e4  # what a hand cannot do at all
    # shifts: leaving where the hand is, then for each usual fret; dearer the less time there is
    leave: float = 0.45
    fret: float = 0.3
    usual_s: float = 0.3  # from onset to onset: the cost is as above
    least_s: float = 0.05  # shorter than this is one movement
    hurry: tuple[float, float] = (1.0, 3.0)  # least and most that time multiplies by inside a line
    at_rest: float = 0.3  # what it multiplies by at least where the line rests
    in_line: float = 1.25  # a hand stays where it is until a line rests
    bridge: float = 0.8  # what is left of a shift while an open string rings
    slid: float = 0.1  # a slide is a shift with one finger
    slide_other_finger: float = 0.6
    rolled: float = 0.25  # one finger that jumps to another string
    held_fret: float = 20.0  # moving while a note is held on another string
    free_frets: float = 1.5  # so far the hand may stretch while a note is held
    # strings
    apart: float = 0.05  # each string between one note and the next
    skipping: float = 0.12  # more, for each string that is jumped over
    skipped_in_grip: float = 0.25  # each string left out between two of a grip
    other_strings: float = 1.2  # a grip moved to other strings
    other_string: float = 0.4  # a repeated lick on another string than before
    other_string_in_cell: float = 1.2  # a moving cell on another string than before
    string_of_its_own: float = 1.2  # a tone of a broken chord on the string of the one before
    # the hand itself
    over_mm: float = 0.05  # each millimetre beyond an easy reach
    bunched: float = 0.15  # a finger closer than its own fret
    # where on the neck
    cramped: tuple[tuple[int, float], ...] = ((15, 0.05), (18, 0.12))  # frets above each: there is no room and no tone
    low: tuple[int, float] = (4, 0.02)  # frets below: leads live up the neck
    thick_string: tuple[int, int, float] = (4, 12, 0.05)  # from this string on, frets above: the tone is dull
    open_by_hand: tuple[float, ...] = (0.0, 0.0, 0.2, 0.35, 0.35, 0.6)  # an open string, the hand so far from the nut
    away_from_home: float = 0.1  # from the box the scale leans on, three frets away and more
    beside_box: float = 0.2  # each fret that the hand sits beside the nearest box of the scale
    box_reach: float = 3.0  # frets: farther away is no worse
    out_of_box: float = 0.1  # a note of the scale where the box has none
    wish_reach: float = 2.0  # around a wished position that is free
    wish_fret: float = 0.5  # each fret beyond, also of a told place
    hand_span: float = 3.5  # frets that a told place may lie above the first finger
    told_slack: float = 0.5  # frets that it may lie below it
    told_across: float = 0.7  # what is left of a told place after a rest
    rest_s: float = 0.2
    # bends
    by_finger: tuple[float, ...] = (1e4, 0.9, 0.4, 0.0, 0.7)  # open, first … little: the third finger, backed by two
    small_bend: float = 0.75  # semitones: below this any finger will do
    small_bend_share: float = 0.3
    first_string: float = 0.25  # thin, and near the neck's edge
    wound: tuple[int, float, float] = (4, 1.0, 1.6)  # from this string on; at all, and for each semitone
    nut_side: tuple[int, float] = (9, 0.12)  # frets below: the string is stiff there
    wide_bend: tuple[float, int, float] = (3.3, 10, 2.0)  # semitones from which, fret below which, what it costs


COSTS = PlacingCosts()
EQUAL_COST = 0.12
"""Two places that differ by less than this are as easy as each other: less than half of one fret's travel."""
