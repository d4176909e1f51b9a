"""The staff of notes over the strings: heads, accidentals by the bar, stems, beams, rests, ties, tuplets.

Written an octave above what sounds, under a clef that says so. Positions count steps of the staff from its middle line,
up positive. Sources: E. Gould, "Behind Bars", 2011; T. Ross, "The Art of Music Engraving and Processing", 1970 (both
from memory); where signs join by SMuFL's anchors.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from notcher.core.score import Tone
from notcher.core.score.notation import NotatedPiece
from notcher.core.sheets.beams import LEAST_STEM_SPACES, STEM_SPACES, beam_line, beam_runs, slant
from notcher.core.sheets.column import Column
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.heads import Head
from notcher.core.sheets.items import Box, Item, arc, bar_fill, fill, sign, stroke
from notcher.core.sheets.marks import ink_of
from notcher.core.sheets.smufl import anchor, default
from notcher.core.sheets.typeface import sign_extent

REST_NAMES = {"whole": "Whole", "half": "Half", "quarter": "Quarter", "eighth": "8th"}
FLAG_NAMES = {"eighth": "8th"}
STAFF_HEIGHT = 4.0  # spaces: five lines
TIE_OUT = (0.0, 0.5, 1.0, 1.5, 2.2, 3.0, 4.0, 5.0, 6.5)
"""How far out a tie may step when something stands in its way, staff spaces."""


# --- room ---
def head_sign(engraver: Engraver, index: int, piece: NotatedPiece) -> str:
    tone, name = engraver.note(index).tone, piece.value.name
    length = {"whole": "Whole", "half": "Half"}.get(name, "Black")
    if tone is Tone.DEAD:
        return f"noteheadX{length}"
    if tone in (Tone.NATURAL_HARMONIC, Tone.TAPPED_HARMONIC, Tone.SQUEAL_HARMONIC):
        return f"noteheadDiamond{length}"
    return f"notehead{length}"


def staff_room(engraver: Engraver, column: Column) -> tuple[float, float]:
    """Return what a column's heads, accidentals and dots need left and right of its middle."""
    space = engraver.style.space
    heads = [engraver.heads[index] for index in column.indices]
    signs = sum(1 for head in heads if head.accidental)
    dots = max((piece.value.dots for _, piece in column.pieces), default=0)
    flags = any(piece.beam < 0 and piece.value.beams and not piece.rest for _, piece in column.pieces)
    steps = sorted(head.step for head in heads)
    seconds = any(b - a <= 1 for a, b in pairwise(steps))
    voices = len({voice for voice, piece in column.pieces if not piece.rest}) > 1
    wide = 0.65 + (1.2 if seconds else 0.0)
    left = wide + (0.2 + _sign_width(heads) * _sign_columns(heads) if signs else 0.0)
    return left * space, (wide + (2.6 if voices else 0.0) + 0.7 * dots + (1.0 if flags and not dots else 0.0)) * space


def _sign_width(heads: Sequence[Head]) -> float:
    """From accidental to accidental, staff spaces."""
    rooms = [sign_extent(head.accidental, 1.0) for head in heads if head.accidental]
    return 0.1 + max((room.right - room.left for room in rooms), default=0.0)


def _sign_columns(heads: Sequence[Head]) -> int:
    return 1 + max((at for _, at in _stacked(heads)), default=0)


def _stacked(heads: Sequence[Head]) -> list[tuple[Head, int]]:
    """Each accidental's head and its place, 0 next to the heads: nearer than a sixth they stand beside each other."""
    lowest: list[int] = []
    result = []
    for head in sorted((head for head in heads if head.accidental), key=lambda head: -head.step):
        at = next((at for at, step in enumerate(lowest) if step - head.step >= 6), len(lowest))
        if at == len(lowest):
            lowest.append(head.step)
        else:
            lowest[at] = head.step
        result.append((head, at))
    return result


# --- drawing ---
@dataclass(slots=True)
class _Sign:
    """A piece on the staff: its place across, its heads from the lowest, its stem."""

    bar: int
    voice: int
    piece: NotatedPiece
    x: float
    heads: list[Head]
    up: bool = True
    tip: float = 0.0

    joined: bool = False

    @property
    def group(self) -> str:
        """What it may touch: its own parts, and the beam that joins it to others."""
        if self.joined:
            return f"beam {self.bar} {self.piece.beam}"
        return f"staff {self.bar} {self.voice} {self.piece.start}"


def staff_y(engraver: Engraver, step: float) -> float:
    """Where a step lies below the staff's top line."""
    return (2.0 - step / 2) * engraver.style.space


def draw_staff(
    engraver: Engraver, columns: Sequence[Column], xs: Sequence[float], start: float, end: float,
    also: Sequence[Item] = (),
) -> list[Item]:  # fmt: skip
    """Return the notes, rests, beams, ties and tuplets of one line; y = 0 is the staff's top line.

    start, end: where ties from the line before begin and those to the next end. also: what else stands on the staff.
    """
    drawn, signs = _columns_drawn(engraver, columns, xs, start, end)
    _clear_voices(engraver, signs)
    beamed = _beam_groups(signs)
    _turn_stems(signs, beamed)
    for each in signs:
        drawn += _heads(engraver, each)
        if not each.joined:
            drawn += _stem(engraver, each)
    for group in beamed:
        name = group[0].group
        obstacles = [item.box for item in drawn if item.group != name and item.kind in ("accidental", "head", "dot")]
        drawn += _beamed(engraver, group, obstacles)
    drawn += _ties(engraver, signs, start, end, [*drawn, *also])
    return [*drawn, *_tuplets(engraver, columns, xs, signs, drawn)]


def _columns_drawn(
    engraver: Engraver, columns: Sequence[Column], xs: Sequence[float], start: float, end: float
) -> tuple[list[Item], list[_Sign]]:
    """What stands at its place already, rests, accidentals and grace notes, and the notes that are drawn once stems are
    known."""
    drawn: list[Item] = []
    signs: list[_Sign] = []
    for column, x in zip(columns, xs, strict=True):
        heads: list[Head] = []
        for voice, piece in column.pieces:
            if column.extra:
                drawn += _extra(engraver, column, piece, x)
                heads += [engraver.heads[index] for index in piece.indices]
                continue
            if piece.rest:
                drawn.append(_rest(engraver, column, piece, x, voice, start, end))
                continue
            mine = sorted((engraver.heads[index] for index in piece.indices), key=lambda head: head.step)
            heads += [head for head in mine if not piece.tied_from]
            signs.append(_Sign(column.bar, voice, piece, x, mine))
        drawn += _accidentals(engraver, column, heads, x)
    return drawn, signs


def _beam_groups(signs: Sequence[_Sign]) -> list[list[_Sign]]:
    """The notes that share a beam, two and more."""
    groups: dict[tuple[int, int], list[_Sign]] = {}
    for each in signs:
        if each.piece.beam >= 0:
            groups.setdefault((each.bar, each.piece.beam), []).append(each)
    return [group for group in groups.values() if len(group) > 1]


def _turn_stems(signs: Sequence[_Sign], beamed: Sequence[Sequence[_Sign]]) -> None:
    """Turn each stem up or down; under one beam all the same way."""
    for each in signs:
        each.up = _stem_up(each.piece, [head.step for head in each.heads])
    for group in beamed:
        outer = [head.step for each in group for head in each.heads]
        notated_piece = next((each.piece for each in group if each.piece.up is not None), group[0].piece)
        up = _stem_up(notated_piece, outer)
        for each in group:
            each.up, each.joined = up, True


def _stem_up(piece: NotatedPiece, steps: Sequence[int]) -> bool:
    """The note farthest from the middle line decides; on it, and between two as far, the stem goes down."""
    if piece.up is not None:
        return piece.up
    return -min(steps) > max(steps)


def _extra(engraver: Engraver, column: Column, piece: NotatedPiece, x: float) -> list[Item]:
    """Heads without a rhythm of their own."""
    drawn: list[Item] = []
    for index in piece.indices:
        step, small = engraver.heads[index].step, 0.7 * engraver.style.space
        name = head_sign(engraver, index, piece).replace("Whole", "Black").replace("Half", "Black")
        drawn.append(sign("head", name, x, staff_y(engraver, step), space=small, anchor=0.5,
                          group=f"extra {column.bar} {index}"))  # fmt: skip
        drawn += _ledgers(engraver, step, x, 0.45 * engraver.style.space)
    return drawn


def _clear_voices(engraver: Engraver, signs: Sequence[_Sign]) -> None:
    """Where two voices would lie on each other the second steps aside."""
    by_start: dict[tuple[int, int], list[_Sign]] = {}
    for each in signs:
        by_start.setdefault((each.bar, each.piece.start), []).append(each)
    for together in by_start.values():
        if len(together) == 2:
            upper, lower = sorted(together, key=lambda each: (each.piece.up is not True, each.voice))
            if min(head.step for head in upper.heads) - max(head.step for head in lower.heads) <= 1:
                flag = upper.piece.value.beams and upper.piece.beam < 0
                lower.x += (2.6 if flag else 1.5) * engraver.style.space


def _heads(engraver: Engraver, each: _Sign) -> list[Item]:
    space = engraver.style.space
    drawn: list[Item] = []
    displaced = _displaced(each)
    dots_at = set()
    for head in each.heads:
        name = head_sign(engraver, head.index, each.piece)
        wide = sign_extent(name, space)
        shift = 0.0
        if head in displaced:
            shift = (wide.right - wide.left) * (1 if each.up else -1) * 0.96
        x, y = each.x + shift, staff_y(engraver, head.step)
        drawn.append(sign("head", name, x, y, space=space, group=each.group, anchor=0.5,
                          ink=ink_of(engraver.note(head.index))))  # fmt: skip
        drawn += _ledgers(engraver, head.step, x, (wide.right - wide.left) / 2)
        between = head.step if head.step % 2 else head.step + 1
        if between not in dots_at:
            dots_at.add(between)
            for dot in range(each.piece.value.dots):
                at = each.x + (0.95 + 0.7 * dot) * space + (0.6 * space if displaced and each.up else 0.0)
                drawn.append(sign("dot", "augmentationDot", at, staff_y(engraver, between), space=space,
                                  group=each.group))  # fmt: skip
    return drawn


def _displaced(each: _Sign) -> list[Head]:
    """Heads that step to the other side of the stem because the next one is a second away."""
    heads = each.heads if each.up else each.heads[::-1]
    result: list[Head] = []
    for before, head in pairwise(heads):
        if abs(head.step - before.step) <= 1 and before not in result:
            result.append(head)
    return result


def _ledgers(engraver: Engraver, step: int, x: float, half: float) -> list[Item]:
    style = engraver.style
    long = half + default("legerLineExtension") * style.space
    lines = range(6, step + 1, 2) if step > 0 else range(-6, step - 1, -2)
    width = default("legerLineThickness") * style.space
    return [
        stroke("ledger", [(x - long, staff_y(engraver, at)), (x + long, staff_y(engraver, at))], width, group="")
        for at in lines
    ]


def _accidentals(engraver: Engraver, column: Column, heads: Sequence[Head], x: float) -> list[Item]:
    space = engraver.style.space
    steps = sorted(head.step for head in heads)
    close = any(b - a <= 1 for a, b in pairwise(steps))
    nearest = x - (0.65 + (1.15 if close else 0.0) + 0.2) * space
    return [
        sign("accidental", head.accidental, nearest - _sign_width(heads) * at * space, staff_y(engraver, head.step),
             space=space, group=f"staff {column.bar} {column.start}", anchor=1.0)
        for head, at in _stacked(heads)
    ]  # fmt: skip


def _stem_x(engraver: Engraver, each: _Sign) -> float:
    """Where a stem stands: by the anchor of its head."""
    style = engraver.style
    name = head_sign(engraver, each.heads[0].index, each.piece)
    wide = sign_extent(name, style.space)
    left = each.x - (wide.right + wide.left) / 2
    at = anchor(name, "stemUpSE" if each.up else "stemDownNW")[0] * style.space
    return left + at + (-style.stem / 2 if each.up else style.stem / 2)


def _near_far(engraver: Engraver, each: _Sign) -> tuple[float, float]:
    """Where a stem begins, at the far head, and the head next to its tip; y."""
    ys = [staff_y(engraver, head.step) for head in each.heads]
    return (max(ys), min(ys)) if each.up else (min(ys), max(ys))


def _stem(engraver: Engraver, each: _Sign) -> list[Item]:
    value, style = each.piece.value, engraver.style
    begin, near = _near_far(engraver, each)
    length = STEM_SPACES * style.space + max(0, value.beams - 2) * style.beam_step
    tip = near - length if each.up else near + length
    middle = staff_y(engraver, 0)
    tip = min(tip, middle) if each.up else max(tip, middle)  # a stem from ledger lines reaches the middle line
    each.tip = tip
    if value.name == "whole":
        each.tip = near
        return []
    x = _stem_x(engraver, each)
    drawn: list[Item] = [_upright(engraver, x, begin, tip, each.group)]
    if value.beams:
        way = "Up" if each.up else "Down"
        name = f"flag{FLAG_NAMES.get(value.name, value.name)}{way}"
        dx, dy = anchor(name, "stemUpNW" if each.up else "stemDownSW")
        left = x - style.stem / 2
        drawn.append(sign("flag", name, left - dx * style.space, tip + dy * style.space, space=style.space,
                          group=each.group))  # fmt: skip
    return drawn


def _upright(engraver: Engraver, x: float, a: float, b: float, group: str) -> Item:
    half = engraver.style.stem / 2
    return bar_fill("stem", Box(x - half, min(a, b), x + half, max(a, b)), group=group)


def _clear_of(
    obstacles: Sequence[Box], at: float, slope: float, span: tuple[float, float], deep: float, gap: float, *, up: bool
) -> float:
    """A beam's height moved outwards until it clears what stands in its way. deep: of all beams together."""
    moved = True
    while moved:
        moved = False
        for box in obstacles:
            if box.right < span[0] or box.left > span[1]:
                continue
            edges = [at + slope * (min(max(x, span[0]), span[1]) - span[0]) for x in (box.left, box.right)]
            top, bottom = (min(edges), max(edges) + deep) if up else (min(edges) - deep, max(edges))
            if box.bottom > top - gap and box.top < bottom + gap:
                by = box.top - gap - bottom if up else box.bottom + gap - top
                at, moved = at + by + (-1e-6 if up else 1e-6), True
    return at


def _beamed(engraver: Engraver, group: Sequence[_Sign], obstacles: Sequence[Box]) -> list[Item]:
    style, up = engraver.style, group[0].up
    sign_of = -1.0 if up else 1.0
    xs = [_stem_x(engraver, each) for each in group]
    nears = [_near_far(engraver, each)[1] for each in group]
    counts = [each.piece.value.beams for each in group]
    extra = [max(0, count - 2) * style.beam_step for count in counts]
    tips = [near + sign_of * (STEM_SPACES * style.space + more) for near, more in zip(nears, extra, strict=True)]
    least = [
        near + sign_of * (LEAST_STEM_SPACES * style.space + (count - 1) * style.beam_step)
        for near, count in zip(nears, counts, strict=True)
    ]
    middle = staff_y(engraver, 0)
    least = [min(end, middle) if up else max(end, middle) for end in least]
    steps = [max(head.step for head in each.heads) if up else min(head.step for head in each.heads) for each in group]
    rise = slant(steps, (xs[-1] - xs[0]) / style.space) * style.space
    at, slope = beam_line(tips, xs, rise, up=up, least=least)
    deep = (max(counts) - 1) * style.beam_step + style.beam
    at = _clear_of(obstacles, at, slope, (xs[0], xs[-1]), deep, 0.25 * style.space, up=up)
    drawn: list[Item] = []
    name = f"beam {group[0].bar} {group[0].piece.beam}"
    for each, x in zip(group, xs, strict=True):
        each.tip = at + slope * (x - xs[0])
        drawn.append(_upright(engraver, x, _near_far(engraver, each)[0], each.tip, name))
    return [*drawn, *beam_items(engraver, xs, counts, at, slope, towards=-sign_of, group=name)]


def beam_items(
    engraver: Engraver, xs: Sequence[float], counts: Sequence[int], at: float, slope: float, *, towards: float,
    group: str,
) -> list[Item]:  # fmt: skip
    """Return a group's beams. at, slope: of the outermost edge. towards: 1 where others lie under it, else -1."""
    style, half = engraver.style, engraver.style.stem / 2
    drawn: list[Item] = []
    for run in beam_runs(counts):
        first, last = xs[run.first] - half, xs[run.last] + half
        if run.first == run.last:
            stub = 1.1 * style.space
            if run.first:
                stub = min(stub, 0.6 * (xs[run.first] - xs[run.first - 1]))
                first = xs[run.first] - stub
            else:
                last = xs[run.first] + min(stub, 0.6 * (xs[1] - xs[0]) if len(xs) > 1 else stub)
        edge = at + towards * run.level * style.beam_step
        thick = towards * style.beam
        corners = [(x, edge + slope * (x - xs[0])) for x in (first, last)]
        drawn.append(fill("beam", [*corners, *((x, y + thick) for x, y in corners[::-1])], group=group))
    return drawn


def _rest(
    engraver: Engraver, column: Column, piece: NotatedPiece, x: float, voice: int, start: float, end: float
) -> Item:
    space, name = engraver.style.space, piece.value.name
    group = f"staff {column.bar} {voice} {piece.start}"
    if piece.whole_bar:
        name = "whole"
    y = 1.0 if name == "whole" else 2.0
    others = [other for own, other in column.pieces if own != voice and not other.rest]
    if others:  # out of the way of the voice that sounds
        steps = [engraver.heads[index].step for other in others for index in other.indices]
        signed = any(engraver.heads[index].accidental for other in others for index in other.indices)
        away = 3.6 if signed else 2.6
        if others[0].up is False:
            y = min(y, staff_y(engraver, max(steps)) / space - away)
        else:
            y = max(y, staff_y(engraver, min(steps)) / space + away)
    return sign("rest", f"rest{REST_NAMES.get(name, name)}", x, y * space, space=space, group=group, anchor=0.5)


def _ties(engraver: Engraver, signs: Sequence[_Sign], start: float, end: float, others: Sequence[Item]) -> list[Item]:
    """Ties bow away from the stems; over the end of a line they are drawn to it, and on from its beginning."""
    drawn: list[Item] = []
    by_voice: dict[int, list[_Sign]] = {}
    for each in signs:
        by_voice.setdefault(each.voice, []).append(each)
    for voice in by_voice.values():
        for before, after in pairwise([None, *voice, None]):
            if before is not None and before.piece.tied_to:
                left, shown = _tie_leaves(engraver, before), before
            elif after is not None and after.piece.tied_from:
                left, shown = start, after
            else:
                continue
            right = after.x - 0.75 * engraver.style.space if after is not None and after.piece.tied_from else end
            if right - left >= 0.4 * engraver.style.space:
                for head in shown.heads:
                    drawn.append(_tie(engraver, shown, head, left, right, [*others, *drawn]))
    return drawn


def _tie_leaves(engraver: Engraver, note: _Sign) -> float:
    """Where a tie begins: behind the head and its dot."""
    return note.x + (0.75 + (0.75 if note.piece.value.dots else 0.0)) * engraver.style.space


def _tie(engraver: Engraver, shown: _Sign, head: Head, left: float, right: float, others: Sequence[Item]) -> Item:
    space = engraver.style.space
    below = shown.up if len(shown.heads) == 1 else head.step <= shown.heads[0].step
    if shown.piece.up is not None:  # two voices: away from the other
        below = not shown.piece.up
    high = min(1.1, 0.35 + 0.09 * (right - left) / space) * space
    name = f"tie {shown.bar} {shown.piece.start} {head.index}"
    y = staff_y(engraver, head.step)
    spots = [(side, 0.55 + away) for side in ((1, -1) if below else (-1, 1)) for away in TIE_OUT]
    tried = (tie(engraver, left, right, y + side * out * space, side * high, name) for side, out in spots)
    return _first_free([*tried], others)


def _first_free(tried: Sequence[Item], others: Sequence[Item]) -> Item:
    """The first of several ways to draw something that meets nothing; the first of all where each does."""
    left, right = tried[0].box.left, tried[0].box.right
    parts = [part for item in others if item.group and item.box.right > left and item.box.left < right
             for part in item.parts]  # fmt: skip
    for item in tried:
        if not any(mine.overlaps(other) for mine in item.parts for other in parts):
            return item
    return tried[0]


def tie(engraver: Engraver, left: float, right: float, y: float, bulge: float, group: str) -> Item:
    return arc("tie", (left, y), (right, y), bulge=bulge, group=group,
               thickness=default("tieMidpointThickness") * engraver.style.space)  # fmt: skip


def _tuplets(
    engraver: Engraver, columns: Sequence[Column], xs: Sequence[float], signs: Sequence[_Sign], drawn: Sequence[Item]
) -> list[Item]:
    """A tuplet's figure at its stems' side, under a bracket where no beam holds it together."""
    space = engraver.style.space
    result: list[Item] = []
    by_piece = {(each.bar, each.voice, each.piece.start): each for each in signs}
    for bar, number, members in tuplets_in(engraver, columns, xs):
        mine = [by_piece.get((bar, voice, piece.start)) for voice, piece, _ in members]
        own = [each for each in mine if each is not None]
        if not own:
            continue
        up = own[0].up
        left, right = members[0][2] - 0.6 * space, members[-1][2] + 0.6 * space
        near = [
            item.box for item in (*drawn, *result) if item.group and item.box.right > left and item.box.left < right
        ]
        edge = min([box.top for box in near] + [0.0]) if up else max([box.bottom for box in near] + [4 * space])
        beamed = all(each is not None and each.piece.beam >= 0 for each in mine)
        one_beam = beamed and len({each.piece.beam for each in own}) == 1
        result += tuplet_mark(engraver, number, left, right, edge, up=up, bracket=not one_beam,
                              group=f"tuplet {bar} {members[0][1].tuplet}")  # fmt: skip
    return result


def tuplets_in(
    engraver: Engraver, columns: Sequence[Column], xs: Sequence[float]
) -> list[tuple[int, int, list[tuple[int, NotatedPiece, float]]]]:
    """Return the tuplets of a line: the bar, the figure, and each member's voice, piece and place across."""
    by_tuplet: dict[tuple[int, int], list[tuple[int, NotatedPiece, float]]] = {}
    for column, x in zip(columns, xs, strict=True):
        for voice, piece in column.pieces:
            if piece.tuplet >= 0:
                by_tuplet.setdefault((column.bar, piece.tuplet), []).append((voice, piece, x))
    return [(bar, engraver.printed[bar].bar.tuplets[tuplet], members) for (bar, tuplet), members in by_tuplet.items()]


def tuplet_mark(
    engraver: Engraver, number: int, left: float, right: float, edge: float, *, up: bool, bracket: bool, group: str
) -> list[Item]:
    """Return a tuplet's figure and bracket beyond an edge."""
    style = engraver.style
    small = 0.62 * style.space
    name = f"tuplet{number}"
    size = sign_extent(name, small)
    high = size.bottom - size.top
    y = edge - 0.35 * style.space if up else edge + 0.35 * style.space + high
    figure = sign("tuplet", name, (left + right) / 2, y, space=small, group=group, anchor=0.5)
    drawn: list[Item] = [figure]
    if bracket:
        pen = default("tupletBracketThickness") * style.space
        middle, hook = y - high / 2, 0.5 * high if up else -0.5 * high
        for ends in ((left, figure.box.left - 0.25 * style.space), (right, figure.box.right + 0.25 * style.space)):
            points = [(ends[0], middle + hook), (ends[0], middle), (ends[1], middle)]
            if abs(ends[1] - ends[0]) > 0.2 * style.space:
                drawn.append(stroke("bracket", points, pen, group=group))
    return drawn
