"""The numbers that the decoder's explanations rest on: what each part of a gesture costs, in nats.

A gesture that is likely, fits the measured pitch and takes its usual time costs little.
"""

from dataclasses import dataclass

SIZES = {0.5: 1.5, 1.0: 0.8, 1.5: 3.5, 2.0: 0.2, 2.5: 3.5, 3.0: 1.0, 4.0: 0.6, 5.0: 3.5, 6.0: 4.5}
"""Bends that are written, in semitones, and what each costs (common practice, no source)."""
NEAR = 0.55  # semitones: half of a fret and what tuning and touch add
AWAY_FRAMES = 30  # the last fret of a slide off still rings a little: 170 ms
INTO_FRAMES = 6  # a slide from nowhere rests on no fret for longer than 40 ms
BENT_UNDER = 3  # semitones that a string is bent under another
STOP_FRAMES = 10  # nor a slide past frets on any of them for longer than 60 ms
BAR_SPEED = 45.0  # semitones a second (common practice, no source)
PUSH_FRAMES, WIDEST_PUSH = 3, 6.5  # frames, semitones
A_FRET = 0.8  # semitones: who slides away passes one
LEAP = 1.5  # semitones that no finger pushes from one frame to the next
GLIDE_FRAMES = 26  # 150 ms
EDGE_FREE = 2  # frames at each end of a plateau that still hold what was before or comes after
STAIR_SHARE, STAIR_SPREAD, MOST_STAIRS = 0.7, 0.07, 4.0  # semitones; nats
SHORT_FRAMES = 9  # 52 ms
LOST_S, LOST_AWAY, LOST_HEARD = 0.08, 2.5, 2.0  # seconds, semitones, nats


@dataclass(frozen=True, slots=True)
class Costs:
    """What each part of an explanation costs, in nats; measured on the tuning set unless said otherwise."""

    std: float = 0.12  # semitones that a plateau lies off its fret
    frame: float = 0.25  # weight of a frame: neighbours say nearly the same
    most_frames: int = 60
    most_misfit: float = 4.5  # of a frame: capped at 3 standard deviations
    wrong_fret: float = 1.5  # of a stretch that lies on another fret altogether
    size_std: float = 0.09  # semitones a nat, of a bend's size
    most_size: float = 2.5
    bend: float = 1.2
    release: float = 0.4
    again: float = 2.0  # bent once more after it was bent and let down
    curl: float = 2.2
    prebend: float = 3.6
    repick: float = 1.2
    slide_in: float = 1.8
    into_frame: float = 0.05
    into_rest: float = 0.6  # a frame, of a stop on the way
    false_pick: float = 0.8  # arriving on a fret sounds like an attack
    slide_away: float = 1.8
    away_frame: float = 0.07
    away_crept: float = 2.5  # that begins with less than a fret: a curl does
    bar: float = 5.5
    bar_frame: float = 0.06
    leap: float = 0.08  # a semitone a second too quick for a bar
    most_leap: float = 6.0
    move_s: float = 0.14  # usual time of a bend's move, log-normal
    move_std: float = 0.8
    curl_s: float = 0.25  # a curl is pushed late and slowly
    curl_std: float = 1.0
    too_quick_s: float = 0.03
    too_quick: float = 4.0
    legato: float = 1.2
    legato_s: float = 0.02
    legato_std: float = 0.55
    wide_legato: float = 1.0  # over five frets
    octave: float = 4.0
    out_of_bend: float = 6.0
    into_bend: float = 12.0
    same_pitch: float = 9.0
    slide: float = 1.6
    slid: float = 0.8  # how much what is heard of a slide counts
    slid_in: float = 1.2
    most_heard: float = 2.5  # of that, where frets between were seen as well
    slide_fret_s: float = 0.03
    slide_std: float = 0.6
    smooth: float = 3.0  # what an even move speaks for a bend, at most, and against a slide: quick stairs are not seen
    unseen: float = 1.0
    drift: float = 0.3
    over_frame: float = 0.15
    push: float = 1.0
    sharp: float = 0.15
    push_frame: float = 0.08
    push_rest: float = 1.2  # a frame
    glide_frame: float = 0.05
    unlikely_pick: float = 0.01  # no moment is surer than this that it is no attack, or that it is one
    too_short: float = 7.0  # of a note of no length; one of `SHORT_FRAMES` costs nothing
    under_held: float = 2.0  # of legato while another string is held: there it is bent
    gap_pick: float = 0.7  # a note after a silence is picked, whatever was heard of it
    impossible: float = 50.0  # what no hand does: taken only where nothing else is left


COSTS = Costs()
