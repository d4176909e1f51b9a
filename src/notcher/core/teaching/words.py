"""What the practice board is called and said, and what makes a variant, in words."""

from collections.abc import Sequence
from math import isinf

from notcher.core.score import End, Note, Score, Tone, Tuning
from notcher.core.teaching.difficulty import Difficulty, Guitar, PartWeights
from notcher.core.teaching.ladder import CLEAN_IN_A_ROW, MISSED_IN_A_ROW, settles_at
from notcher.core.teaching.noise import noise_dose
from notcher.core.teaching.plan import (
    BREAK_EVERY_MIN,
    NEW_IN_HALF_AN_HOUR,
    REST_S,
    REVIEW_DAYS,
    STRAIN_EVERY_MIN,
    STRAIN_N,
    TALK_S,
    Caution,
    Later,
    Plan,
    Step,
    Why,
)
from notcher.core.teaching.progress import Progress, gap_days
from notcher.core.teaching.rungs import BoardRow
from notcher.core.teaching.running import Phase, Running
from notcher.core.teaching.student_model import PaceEstimate
from notcher.core.teaching.variations import OtherNote, Otherwise, Variation, Vary
from notcher.core.words import (
    ATTACKS,
    USUAL,
    Naming,
    bend_size,
    bent_words,
    day_words,
    figure,
    half_steps,
    many,
    ordinal,
    place_name,
)
from notcher.core.words.shapes import many_frets

WHY = {
    Vary.GARNISH: "it only adorns",
    Vary.OUT_OF_NECK: "no string of this neck has it",
}


def row_name(row: BoardRow) -> str:
    """Return a row's name: the phrase's, or both of a join."""
    if row.piece is not None:
        return f"{row.phrases[0].name}, {ordinal(row.number)} piece"
    if len(row.phrases) > 2:
        return f"{row.phrases[0].name} to {row.phrases[-1].name}"
    return " + ".join(phrase.name for phrase in row.phrases)


def variation_words(change: Variation, score: Score, tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return one change of a variant and its reason: "string 2, fret 15 instead of the bend of 1½ steps".

    score: the original. tuning: of the variant.
    """
    note, kind = score.note_of(change.source), change.kind
    if note is None:
        return ""
    here = place_name(score.tuning, note.string, note.fret, naming)
    there = ", ".join(place_name(tuning, after.string, after.fret, naming) for after in change.after)
    if kind is Vary.SHAPE:
        return f"the same shape, {many_frets(round(change.amount))}"
    if kind is Vary.BEND:
        back = ", and let down to its own fret" if len(change.after) > 1 else ""
        there = place_name(tuning, change.after[0].string, change.after[0].fret, naming) if change.after else there
        return f"{there} instead of the bend of {bend_size(change.amount, naming)}{back}"
    if kind is Vary.THIN:
        return f"{here} left out: {figure(change.amount)} notes a second are too quick here"
    if kind is Vary.PLAINER:
        lost = _gone(note, change.after[0]) if change.after else ""
        return f"{here} without {lost}"
    if kind is Vary.REACH:
        far = f"{change.amount:.0f} mm beyond an easy reach"
        return f"{there} instead of {here}: {far}" if there else f"{here} left out: {far}"
    if kind is Vary.FITTED:
        return f"{here} {half_steps(round(change.amount))}, to stay the same degree of the chord"
    if kind is Vary.PLACED:
        octave = f", an octave {'higher' if change.amount > 0 else 'lower'}" if change.amount else ""
        return f"{there} instead of {here}{octave}"
    return f"{here} left out: {WHY[kind]}"


def _gone(note: Note, after: Note) -> str:
    """What of a note's adornment is left out."""
    parts = [
        ("the pinch harmonic", note.tone is Tone.SQUEAL_HARMONIC is not after.tone),
        ("the rake", note.raked and not after.raked),
        ("sliding in", note.slid_in and not after.slid_in),
        ("the wide vibrato", note.vibrato is not None and after.vibrato is None),
        ("sliding away", note.end is End.SLIDES_AWAY is not after.end),
    ]
    return " and ".join(words for words, lost in parts if lost) or "what adorns it"


def other_note_words(other: OtherNote, score: Score, tuning: Tuning, naming: Naming = USUAL) -> str:
    """Return in what a note of a variant is not the original's, in a few words. tuning: of the variant."""
    before, after = other.before, other.after
    was = place_name(score.tuning, before.string, before.fret, naming) if before is not None else ""
    now = place_name(tuning, after.string, after.fret, naming) if after is not None else ""
    if before is None or after is None:
        return f"{was} is left out" if after is None else f"{now} is new"
    if other.kind is Otherwise.BEND:
        return f"{now} {bent_words(after, naming)}, was {was} {bent_words(before, naming)}"
    if other.kind is Otherwise.PLAINER:
        return f"{now} without {_gone(before, after)}"
    if other.kind is Otherwise.STRUCK:
        return f"{now} {ATTACKS[after.attack]}, was {ATTACKS[before.attack]}"
    if other.kind is Otherwise.TIME:
        return f"{now} at another time"
    return f"{now}, was {was}"


STEPS = {
    Why.HEAR_IT: "{first} once at full speed",
    Why.WHOLE: "the whole solo once at full speed",
    Why.WARM_UP: "warm up with {all}, slower than it is clean",
    Why.REVIEW: "{all} is due again",
    Why.AGAIN: "{all} once more",
    Why.PERFORM: "to end with, {span} in time",
    Why.SAME_SHAPE: "{first} is the same shape as {like}: {saves} are known",
    Why.PIECE: "the {piece} piece of {first}, which is long",
    Why.GOES_ON: "{first} goes on where it stood",
    Why.RUNG_UP: "{first} one tempo step up",
    Why.JOIN: "join {all}",
    Why.FROM_THE_TOP: "everything so far, {span}",
}
"""What is said of a step, by why it stands in the plan."""


def step_words(step: Step, plan: Plan) -> str:
    """Return why a step stands in the plan: "Call is new", "the same shape as Call: 5 notes are known"."""
    names = {phrase.id: phrase.name or "a phrase" for phrase in plan.phrases}
    mine = [names[name] for name in step.phrases]
    text = STEPS.get(step.why, "{first} is new").format(
        first=mine[0], all=_listed(mine), span=mine[0] if len(mine) == 1 else f"{mine[0]} to {mine[-1]}",
        like=names.get(step.like, "an earlier phrase"), saves=many(step.saves, "note"), piece=_which_piece(step, plan),
    )  # fmt: skip
    pause = f"; then a break of {step.break_s:.0f} s" if step.break_s else ""
    return text + pause


def _which_piece(step: Step, plan: Plan) -> str:
    """Which piece of its phrase a step is about: 2nd; empty where it is about all of it."""
    steps = (*plan.steps, *plan.skipped)
    pieces = sorted({other.piece for other in steps if other.piece is not None and other.phrases == step.phrases})
    return "" if step.piece is None else ordinal(pieces.index(step.piece) + 1)


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def later_words(later: Later, plan: Plan) -> str:
    """Return what is for another day, and why."""
    names = {phrase.id: phrase.name or "a phrase" for phrase in plan.phrases}
    listed = _listed([names[name] for name in later.phrases])
    if later.why is Why.REVIEW:
        return f"repeat {listed}: what was learned is repeated at growing intervals"
    return f"{listed}: the minutes do not hold it today"


CAUTIONS = {
    Caution.WARM_UP: "Warm the hands up before the big bends; stop at pain, numbness or tingling, and see a clinician "
    "if it comes back.",
    Caution.STRETCH: "Warm up before the wide reach, and do not force it: an easier variant lays it closer.",
    Caution.BREAKS: "Rest the hands for a minute about every twenty minutes, and after eight of big bends or "
    "stretches.",
    Caution.STRINGS: "Keep your face away from very wide bends: old strings break near the bridge, and whip.",
}


def caution_words(caution: Caution, plan: Plan | None = None, naming: Naming = USUAL) -> str:
    """Return a caution, plainly; with the figure of a plan that it is said for."""
    if caution is Caution.STRINGS and plan is not None:
        rise = f"{figure(100 * plan.tension_rise, naming=naming)} %"
        return f"The widest bend here raises its string's tension by {rise}: {_lower(CAUTIONS[caution])}"
    return CAUTIONS[caution]


def _lower(words: str) -> str:
    return words[:1].lower() + words[1:]


def noise_words(level_dba: float, minutes: float, naming: Naming = USUAL) -> str:
    """Return how much of a day's noise a lesson is; empty for a level that is not counted."""
    dose = noise_dose(level_dba, minutes)
    if not dose:
        return ""
    level = f"{figure(level_dba, naming=naming)} dB(A)"
    if isinf(dose):
        return f"{level} are allowed for no time at all (NIOSH 1998): turn it down; local rules go first."
    share = f"{figure(dose * 100, naming=naming)} % of a day's noise"
    much = "turn it down or wear protection; " if dose > 1 else ""
    return f"{figure(minutes, naming=naming)} minutes at {level} are {share} (NIOSH 1998): {much}local rules go first."


PART_NAMES = {
    "peak_notes_per_s": "quickest second, notes",
    "notes_per_s": "notes a second",
    "shifts_mm_per_s": "hand shifts, mm a second",
    "stretch_mm": "longest reach, mm beyond easy",
    "crossings_per_s": "string crossings a second",
    "skips_per_s": "strings skipped a second",
    "legato": "share of legato notes",
    "sweep": "share of swept notes",
    "tap": "share of tapped notes",
    "mute": "share of muted notes",
    "bend_n": "bend effort, newtons",
    "bend_mm": "widest bend, mm",
    "vibrato_on_bends": "share of vibrato on bends",
    "odd_groups": "share in fives and sevens",
    "float_ms": "timing drift, ms",
}
"""What the parts of a phrase's difficulty are called, each with its unit."""


def difficulty_words(difficulty: Difficulty, naming: Naming = USUAL) -> str:
    """Return how hard a phrase is: its points, and each part that asks something.

    The effort of a bend is told by degree; `weights_words` has the newtons.
    """
    parts = difficulty.parts.as_dict()
    texts = [
        f"bend effort: {effort_words(value)}"
        if name == "bend_n"
        else f"{PART_NAMES[name]}: {_part(name, value, naming)}"
        for name, value in parts.items()
        if value >= LEAST[name]
    ]
    return "\n".join(
        [f"difficulty {figure(difficulty.points, naming=naming)} (100 is a hard phrase of a hard solo)", *texts]
    )


SHARES = {name for name, words in PART_NAMES.items() if words.startswith("share")}
LEAST = {name: 0.005 if name in SHARES else 0.05 for name in PART_NAMES}
"""Below it a part would read as nothing."""


EFFORTS_N = ((STRAIN_N, "high"), (6.0, "medium"), (0.0, "low"))
"""From how many newtons on a bend is called so: a whole step on the third string asks for about 7, a half for 4, two
steps for 13, by `push_for` with the usual strings."""


def effort_words(push_n: float) -> str:
    """Return how much effort a bend is: low, medium, high."""
    return next(words for least, words in EFFORTS_N if push_n >= least)


def _part(name: str, value: float, naming: Naming) -> str:
    return f"{figure(value * 100, naming=naming)} %" if name in SHARES else figure(value, 1, naming=naming)


def rule_words(naming: Naming = USUAL) -> str:
    """Return by which rule the next rung is found, and who published it."""
    share = figure(100 * settles_at(CLEAN_IN_A_ROW, MISSED_IN_A_ROW), naming=naming)
    return (
        f"One tempo step up after {CLEAN_IN_A_ROW} clean passes in a row, down after {MISSED_IN_A_ROW} missed ones, a "
        "shaky one stays; until the first that is not clean one clean pass is enough. Such a ladder settles where "
        f"{share} % of the passes are clean (transformed up-down rule, Levitt 1971)."
    )


def next_words(found: PaceEstimate, progress: Progress, naming: Naming = USUAL) -> str:
    """Return what is played clean of a row by now, the pace to practise next, and when full tempo is likely."""
    clean, low, high, after = (
        figure(100 * pace, naming=naming) for pace in (found.clean_now, found.low, found.high, found.next_pace)
    )
    sure = f"Clean by now: {clean} % ({low} to {high} %)." if found.marks else "Not tried yet."
    full = f" {full_words(progress)}" if progress.clean else ""
    return f"Next: {after} %. {sure}{full}"


def clean_words(progress: Progress, naming: Naming = USUAL) -> str:
    """Return what is clean by now, with its range, and when full tempo is likely."""
    if not progress.clean:
        return "No pass is dated yet."
    last = progress.clean[-1]
    text = (
        f"Clean by now: {figure(100 * last.pace, naming=naming)} % "
        f"({figure(100 * last.low, naming=naming)} to {figure(100 * last.high, naming=naming)} %)."
    )
    return f"{text} {full_words(progress)}"


def full_words(progress: Progress) -> str:
    """Return when full tempo is likely, with its range."""
    if progress.reached:
        return "Full tempo is clean."
    if len(progress.days) < 2:
        return "When full tempo comes is told after a second day of practice."
    if not progress.full_on:
        return "It has not come nearer yet."
    early, middle, late = ("later than in three years" if day is None else day_words(day) for day in progress.full_on)
    return f"Full tempo is likely on {middle} ({early} to {late})." if progress.full_on[1] else f"Full tempo: {middle}."


def course_words(progress: Progress, naming: Naming = USUAL) -> str:
    """Return on what the date of full tempo rests."""
    if progress.course is None:
        return ""
    return (
        f"Learning curve: the pace grows as the day of practice to the power "
        f"{figure(progress.course.b, 2, naming=naming)} (power law of practice, Newell and Rosenbloom "
        f"1981), fitted to {many(len(progress.days), 'day')}, "
        f"{figure(gap_days(progress.days), naming=naming)} days apart on average; "
        "the range holds eight chances in ten."
    )


def weights_words(difficulty: Difficulty, weights: PartWeights, naming: Naming = USUAL) -> str:
    """Return how a phrase's points come about: each part with its points, the most first."""
    rows = [f"{PART_NAMES[name]}: {figure(points, 1, naming=naming)} points" for name, points in
            difficulty.shares(weights) if points >= LEAST_POINTS]  # fmt: skip
    return "\n".join(rows)


LEAST_POINTS = 0.05  # less is not worth a word


def plan_reasons(plan: Plan, naming: Naming = USUAL) -> list[str]:
    """Return on what a plan's minutes, paces and reviews rest, a paragraph each."""
    values = (REST_S, TALK_S, BREAK_EVERY_MIN, STRAIN_EVERY_MIN)
    rest, talk, apart, strain = (figure(value, naming=naming) for value in values)
    days = f"{', '.join(map(str, REVIEW_DAYS[:-1]))} and {REVIEW_DAYS[-1]} days"
    return [
        f"Minutes: what is new begins with {talk} s of talk; a round is a whole count-in, the stretch at its tempo and "
        f"{rest} s of rest; what is left goes into more rounds. A break comes after "
        f"{apart} minutes, or {strain} of strained playing.",
        "Start: the tempo step that stands marked clean, then at most one above. A phrase never tried begins where "
        "this student's other phrases and its own speed, bends, stretches and leaps let one expect it; at half tempo "
        "at most when nothing is known, and never above 80 %.",
        f"New phrases in half an hour: {', '.join(f'{level} {count}' for level, count in NEW_IN_HALF_AN_HOUR.items())} "
        f"(common practice, no source); this student counts as {plan.student.level}.",
        f"Later: reviews after {days}, at growing intervals (Pimsleur 1967).",
    ]


def bend_reason(difficulty: Difficulty, guitar: Guitar, naming: Naming = USUAL) -> str:
    """Return how hard a phrase's hardest bend is to push, and how that is found."""
    length, parts = figure(guitar.scale_length_mm, naming=naming), difficulty.parts
    hardest = (
        f"The hardest bend here asks for {figure(parts.bend_n, 1, naming=naming)} newtons over "
        f"{figure(parts.bend_mm, 1, naming=naming)} mm. "
    )
    return (
        f"{hardest if parts.bend_n >= LEAST['bend_n'] else ''}"
        f"Newtons of a bend: strings {guitar.strings.name}, scale length {length} mm. Tension is unit weight times the "
        "square of twice the length times the pitch (Mersenne's law); the sideways force follows from the way the "
        "string is pushed aside."
    )


def running_words(now: Running, naming: Naming = USUAL) -> str:
    """Return where a lesson that runs is: "3:20 of 30:00, step 2 of 18, round 3 of 9"."""
    clock_words = f"{_minutes(now.in_all_s)} of {_minutes(60 * now.plan.planned_minutes)}"
    if now.over:
        count = len({step_done.at for step_done in now.done if step_done.rounds})
        return (
            f"Done: {count} of {many(len(now.plan.steps), 'step')} in {figure(now.in_all_s / 60, 1, naming=naming)} "
            f"minutes; planned were {figure(now.plan.planned_minutes, 1, naming=naming)}."
        )
    text = f"{clock_words}, step {now.at + 1} of {len(now.plan.steps)}"
    if now.phase is Phase.BREAK:
        return f"{text}: a break, rest the hands"
    if now.phase is Phase.TALK:
        return f"{text}: {_minutes(max(0.0, now.step.parts.talk_s - now.in_step_s))} to talk"
    what = {Phase.COUNT_IN: ", count-in", Phase.REST: ", rest"}.get(now.phase, "")
    return f"{text}, round {min(now.rounds + 1, now.wanted_rounds)} of {now.wanted_rounds}{what}"


def ran_words(now: Running, naming: Naming = USUAL) -> str:
    """Return everything of a lesson that sounded: "Call at 50 %, 4 rounds; Call to Answer at 40 %, once"."""
    names = {phrase.id: phrase.name or "a phrase" for phrase in now.plan.phrases}
    texts = []
    for step, rounds in now.sounded_steps:
        ends = names[step.phrases[0]], names[step.phrases[-1]]
        what = ends[0] if len(step.phrases) == 1 else f"{ends[0]} to {ends[1]}"
        piece = "" if step.piece is None else ", a piece"
        how_often = "once" if rounds == 1 else many(rounds, "round")
        texts.append(f"{what}{piece} at {figure(100 * step.pace, naming=naming)} %, {how_often}")
    return "; ".join(texts)


def _minutes(seconds: float) -> str:
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"
