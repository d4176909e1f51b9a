"""A solo as MusicXML 4.0: one part, one tablature staff, one voice.

Source: W3C Music Notation Community Group, "MusicXML 4.0", 2021 (element order and meaning as in its schema).
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from notcher.core.score import LEGATO_ATTACKS, LINK_S, NO_BEAT_MAP, Attack, BeatMap, Note, Score, Tone, techniques
from notcher.core.score.rhythm import DIVISIONS, WrittenTime, written_times

HEADER = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
    '"http://www.musicxml.org/dtds/partwise.dtd">\n'
)
PLAIN, TRIPLET, QUINTUPLET = (1, 1), (3, 2), (5, 4)
VALUES: dict[int, tuple[str, int, tuple[int, int]]] = {
    480: ("whole", 0, PLAIN),
    360: ("half", 1, PLAIN),
    240: ("half", 0, PLAIN),
    180: ("quarter", 1, PLAIN),
    120: ("quarter", 0, PLAIN),
    96: ("quarter", 0, QUINTUPLET),
    90: ("eighth", 1, PLAIN),
    80: ("quarter", 0, TRIPLET),
    72: ("eighth", 1, QUINTUPLET),
    60: ("eighth", 0, PLAIN),
    48: ("eighth", 0, QUINTUPLET),
    45: ("16th", 1, PLAIN),
    40: ("eighth", 0, TRIPLET),
    30: ("16th", 0, PLAIN),
    24: ("16th", 0, QUINTUPLET),
    20: ("16th", 0, TRIPLET),
    15: ("32nd", 0, PLAIN),
    12: ("32nd", 0, QUINTUPLET),
    10: ("32nd", 0, TRIPLET),
    6: ("64th", 0, QUINTUPLET),
    5: ("64th", 0, TRIPLET),
    3: ("128th", 0, QUINTUPLET),
    2: ("256th", 0, TRIPLET),
    1: ("512th", 0, TRIPLET),
}
"""Length in parts of a beat: note value, dots, how many stand in the time of how many."""
FAMILIES = ((15, PLAIN), (10, TRIPLET), (12, QUINTUPLET))
"""Smallest value of each kind, in parts."""
STEPS = (
    ("C", 0),
    ("C", 1),
    ("D", 0),
    ("E", -1),
    ("E", 0),
    ("F", 0),
    ("F", 1),
    ("G", 0),
    ("A", -1),
    ("A", 0),
    ("B", -1),
    ("B", 0),
)


@dataclass(slots=True)
class _Stroke:
    """Notes that begin together, their written onset and length, their indices in the score."""

    onset: int
    length: int
    indices: list[int] = field(default_factory=list)


def musicxml_text(score: Score) -> str:
    """Return the solo as a MusicXML document; without a beat map it is counted at 60 beats a minute."""
    timed = (
        score if score.beat_map.known else Score(score.notes, score.tuning, BeatMap.steady(60, 0.0), title=score.title)
    )
    root = Element("score-partwise", version="4.0")
    SubElement(SubElement(root, "work"), "work-title").text = score.title or "Untitled solo"
    identification = SubElement(root, "identification")
    SubElement(SubElement(identification, "encoding"), "software").text = "Notcher"
    part_list = SubElement(root, "part-list")
    SubElement(SubElement(part_list, "score-part", id="P1"), "part-name").text = "Lead guitar"
    part = SubElement(root, "part", id="P1")
    times, _ = written_times(timed)
    per_bar = timed.beat_map.meter[0] * DIVISIONS * 4 // timed.beat_map.meter[1]
    strokes = _strokes(times)
    last = max((stroke.onset + stroke.length for stroke in strokes), default=1)
    for bar in range(-(-last // per_bar)):
        measure = SubElement(part, "measure", number=str(bar + 1))
        if bar == 0:
            _attributes(measure, timed)
            if score.beat_map != NO_BEAT_MAP and timed.beat_map.tempo_bpm is not None:
                _tempo(measure, timed.beat_map.tempo_bpm)
        _fill(measure, timed, strokes, bar * per_bar, (bar + 1) * per_bar)
    indent(root, " ")
    return HEADER + tostring(root, encoding="unicode") + "\n"


def _strokes(times: Sequence[WrittenTime]) -> list[_Stroke]:
    strokes: list[_Stroke] = []
    for index, time in enumerate(times):
        if strokes and strokes[-1].onset == time.onset:
            strokes[-1].length = max(strokes[-1].length, time.length)
        else:
            strokes.append(_Stroke(time.onset, time.length))
        strokes[-1].indices.append(index)
    return strokes


def _attributes(measure: Element, score: Score) -> None:
    attributes = SubElement(measure, "attributes")
    SubElement(attributes, "divisions").text = str(DIVISIONS)
    SubElement(SubElement(attributes, "key"), "fifths").text = "0"
    time = SubElement(attributes, "time")
    SubElement(time, "beats").text, SubElement(time, "beat-type").text = map(str, score.beat_map.meter)
    clef = SubElement(attributes, "clef")
    SubElement(clef, "sign").text, SubElement(clef, "line").text = "TAB", "5"
    details = SubElement(attributes, "staff-details")
    SubElement(details, "staff-lines").text = str(score.tuning.strings)
    for line, midi in enumerate(reversed(score.tuning.open_midi), start=1):  # line 1 is the lowest
        tuning = SubElement(details, "staff-tuning", line=str(line))
        step, alter, octave = _spelled(midi)
        SubElement(tuning, "tuning-step").text = step
        if alter:
            SubElement(tuning, "tuning-alter").text = str(alter)
        SubElement(tuning, "tuning-octave").text = str(octave)
    if score.tuning.capo:
        SubElement(details, "capo").text = str(score.tuning.capo)


def _tempo(measure: Element, tempo_bpm: float) -> None:
    direction = SubElement(measure, "direction", placement="above")
    metronome = SubElement(SubElement(direction, "direction-type"), "metronome")
    SubElement(metronome, "beat-unit").text, SubElement(metronome, "per-minute").text = "quarter", f"{tempo_bpm:.0f}"
    SubElement(direction, "sound", tempo=f"{tempo_bpm:.2f}")


def _fill(measure: Element, score: Score, strokes: list[_Stroke], start: int, end: int) -> None:
    """Write one bar: notes cut at its lines, rests between them."""
    now = start
    for stroke in strokes:
        first, last = max(stroke.onset, start), min(stroke.onset + stroke.length, end)
        if first >= last:
            continue
        _rest(measure, first - now)
        pieces = _pieces(first, last)
        for number, (at, length) in enumerate(pieces):
            tied_from = at > stroke.onset
            tied_to = number + 1 < len(pieces) or stroke.onset + stroke.length > last
            for position, index in enumerate(stroke.indices):
                _note(measure, score, index, length, chord=position > 0, tied_from=tied_from, tied_to=tied_to)
        now = last
    _rest(measure, end - now, whole=now == start)


def _pieces(first: int, last: int) -> list[tuple[int, int]]:
    """Split a length into writable values; what is no plain value is cut at the beats first."""
    if first % 30 == 0 and last % 30 == 0:
        return _values(first, last)
    next_beat = (first // DIVISIONS + 1) * DIVISIONS
    last_beat = last // DIVISIONS * DIVISIONS
    cuts = sorted(
        {first, *([next_beat] if first < next_beat < last else []), *([last_beat] if first < last_beat else []), last}
    )
    return [piece for a, b in pairwise(cuts) for piece in _values(a, b)]


def _values(first: int, last: int) -> list[tuple[int, int]]:
    """Values of one kind that fill a length, longest first; of any kind where none does."""
    length = last - first
    kind = next((kind for step, kind in FAMILIES if length % step == 0), None)
    pieces = []
    while first < last:
        kinds = {kind} if kind is not None and last - first < DIVISIONS else {kind, PLAIN}
        fits = [v for v, (_, _, of) in VALUES.items() if v <= last - first and (kind is None or of in kinds)]
        longest = max(fits)
        pieces.append((first, longest))
        first += longest
    return pieces


def _rest(measure: Element, length: int, *, whole: bool = False) -> None:
    for _, piece in _pieces(0, length):
        note = SubElement(measure, "note")
        SubElement(note, "rest", {"measure": "yes"} if whole and piece == length else {})
        _value(note, piece)


def _value(note: Element, length: int) -> None:
    SubElement(note, "duration").text = str(length)
    SubElement(note, "voice").text = "1"
    _value_type(note, length)


def _value_type(note: Element, length: int) -> None:
    name, dots, (actual, normal) = VALUES[length]
    SubElement(note, "type").text = name
    for _ in range(dots):
        SubElement(note, "dot")
    if actual != normal:
        change = SubElement(note, "time-modification")
        SubElement(change, "actual-notes").text, SubElement(change, "normal-notes").text = str(actual), str(normal)


def _spelled(midi: float) -> tuple[str, int, int]:
    whole = round(midi)
    step, alter = STEPS[whole % 12]
    return step, alter, whole // 12 - 1


def _note(
    measure: Element, score: Score, index: int, length: int, *, chord: bool, tied_from: bool, tied_to: bool
) -> None:
    note = score.notes[index]
    element = SubElement(measure, "note")
    if chord:
        SubElement(element, "chord")
    pitch = SubElement(element, "pitch")
    step, alter, octave = _spelled(score.fretted_midi(note))
    SubElement(pitch, "step").text = step
    if alter:
        SubElement(pitch, "alter").text = str(alter)
    SubElement(pitch, "octave").text = str(octave)
    SubElement(element, "duration").text = str(length)
    ties = [kind for kind, is_so in (("stop", tied_from), ("start", tied_to)) if is_so]
    for kind in ties:
        SubElement(element, "tie", type=kind)
    SubElement(element, "voice").text = "1"
    _value_type(element, length)
    if note.tone is Tone.DEAD:
        SubElement(element, "notehead").text = "x"
    notations = SubElement(element, "notations")
    for kind in ties:
        SubElement(notations, "tied", type=kind)
    _technical(notations, score, index, first=not tied_from, last=not tied_to)
    if note.tone is Tone.PALM_MUTE:
        SubElement(SubElement(element, "play"), "mute").text = "palm"


def _technical(notations: Element, score: Score, index: int, *, first: bool, last: bool) -> None:
    """String, fret and how the note is played; joins start on one note and stop on the next of its string."""
    note, names = score.notes[index], techniques(score, index)
    following = next((other for other in score.notes[index + 1 : index + 8] if other.string == note.string), None)
    joins = last and following is not None and abs(following.onset_s - note.offset_s) < LINK_S
    if first and note.attack is Attack.SLIDE and "slide" in names:
        SubElement(notations, "slide", type="stop", number="1")
    if joins and following is not None and following.attack is Attack.SLIDE:
        SubElement(notations, "slide", {"type": "start", "number": "1", "line-type": "solid"})
    if first and "vibrato" in names:
        ornaments = SubElement(notations, "ornaments")
        SubElement(ornaments, "wavy-line", type="start", number="1")
        SubElement(ornaments, "wavy-line", type="stop", number="1")
    technical = SubElement(notations, "technical")
    SubElement(technical, "string").text = str(note.string)
    SubElement(technical, "fret").text = str(note.fret)
    if first:
        _struck(technical, note)
        _bends(technical, note, names)
    if joins and following is not None and following.attack in LEGATO_ATTACKS:
        _join(technical, following.attack, "start")


def _struck(technical: Element, note: Note) -> None:
    _join(technical, note.attack, "stop")
    if note.stroke is not None:
        SubElement(technical, f"{note.stroke}-bow")
    if note.finger is not None:
        SubElement(technical, "fingering").text = str(note.finger)
    if note.attack is Attack.TAP:
        SubElement(technical, "tap")
    if note.tone is Tone.NATURAL_HARMONIC:
        SubElement(SubElement(technical, "harmonic"), "natural")
    elif note.tone in (Tone.SQUEAL_HARMONIC, Tone.TAPPED_HARMONIC):
        SubElement(SubElement(technical, "harmonic"), "artificial")


def _join(technical: Element, attack: Attack, kind: str) -> None:
    names = {Attack.HAMMER: ("hammer-on", "H"), Attack.PULL: ("pull-off", "P")}
    if attack in names:
        element = SubElement(technical, names[attack][0], type=kind, number="1")
        element.text = names[attack][1] if kind == "start" else None


def _bends(technical: Element, note: Note, names: tuple[str, ...]) -> None:
    """A bend-alter is signed: up is positive, a release negative (MusicXML 4.0, bend-alter)."""
    size = round(note.curve.peak_semitones, 2)
    if "prebend" in names or "bend" in names or "curl" in names:
        bend = SubElement(technical, "bend")
        SubElement(bend, "bend-alter").text = f"{size:g}"
        if "prebend" in names:
            SubElement(bend, "pre-bend")
    if "release" in names:
        bend = SubElement(technical, "bend")
        SubElement(bend, "bend-alter").text = f"{-size:g}"
        SubElement(bend, "release")
    if "dip" in names or "dive" in names:
        bend = SubElement(technical, "bend")
        SubElement(bend, "bend-alter").text = f"{min(value for _, value in note.curve.points):g}"
        SubElement(bend, "with-bar").text = "dip" if "dip" in names else "dive"
