"""A solo as MusicXML 4.0: one part, one tablature staff, one voice.

Source: W3C Music Notation Community Group, "MusicXML 4.0", 2021 (element order and meaning as in its schema).
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise
from xml.etree.ElementTree import Element, SubElement, indent, tostring

import numpy as np

from notcher.core.score import LEGATO_ATTACKS, LINK_S, Attack, BeatMap, Meter, Note, Score, Tone, techniques
from notcher.core.score.beat_map import SLACK
from notcher.core.score.rhythm import TICKS, WrittenTime, written_times
from notcher.core.theory import spelled

HEADER = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
    '"http://www.musicxml.org/dtds/partwise.dtd">\n'
)
PLAIN, TRIPLET, QUINTUPLET, SEPTUPLET, FIVE_IN_THREE = (1, 1), (3, 2), (5, 4), (7, 4), (5, 3)
SEVEN_IN_SIX = (7, 6)
Value = tuple[str, int, tuple[int, int]]
"""Note value, dots, how many stand in the time of how many."""
NAMES = ("whole", "half", "quarter", "eighth", "16th", "32nd", "64th", "128th")


def _values_by_length() -> dict[int, Value]:
    """Every length in ticks of a quarter that is one note value; plain ones before tuplets of the same length."""
    values: dict[int, Value] = {}
    for kind in (PLAIN, TRIPLET, QUINTUPLET, FIVE_IN_THREE, SEPTUPLET, SEVEN_IN_SIX):
        for number, name in enumerate(NAMES):
            for dots in (0, 1):
                length = 4 * TICKS / 2**number * (1.5 if dots else 1) * kind[1] / kind[0]
                if length == round(length) and (kind == PLAIN or (dots == 0 and number > 0)):
                    values.setdefault(round(length), (name, dots, kind))
    return values


VALUES = _values_by_length()
PLAIN_STEP = TICKS // 4
MODES = {
    "major": "major",
    "natural minor": "minor",
    "harmonic minor": "minor",
    "melodic minor": "minor",
    "dorian": "dorian",
    "phrygian": "phrygian",
    "lydian": "lydian",
    "mixolydian": "mixolydian",
    "locrian": "locrian",
}
SMALLEST: Value = ("256th", 0, TRIPLET)
"""How what no value fills is drawn; its length is told exactly all the same."""
FAMILIES = (
    (105, PLAIN), (70, TRIPLET), (84, QUINTUPLET), (63, FIVE_IN_THREE), (60, SEPTUPLET), (90, SEVEN_IN_SIX),
)  # fmt: skip
"""Smallest length of each kind, in ticks."""


@dataclass(slots=True)
class _Stroke:
    """Notes that begin together, their written onset and length, their indices in the score."""

    onset: int
    length: int
    indices: list[int] = field(default_factory=list)


def musicxml_text(score: Score) -> str:
    """Return the solo as a MusicXML document; without a beat map it is counted at 60 beats a minute."""
    timed = score if score.beat_map.known else replace(score, beat_map=BeatMap.steady(60, 0.0))
    root = Element("score-partwise", version="4.0")
    SubElement(SubElement(root, "work"), "work-title").text = score.title or "Untitled solo"
    identification = SubElement(root, "identification")
    SubElement(SubElement(identification, "encoding"), "software").text = "Notcher"
    part_list = SubElement(root, "part-list")
    SubElement(SubElement(part_list, "score-part", id="P1"), "part-name").text = "Lead guitar"
    part = SubElement(root, "part", id="P1")
    beat_map, strokes = timed.beat_map, _strokes(written_times(timed))
    first = beat_map.bar_at(min((stroke.onset for stroke in strokes), default=0) / TICKS)
    first = min(first, 0) if beat_map.pickup else first
    last = max((stroke.onset + stroke.length for stroke in strokes), default=1)
    bar, meter, pickup = first, None, round(beat_map.pickup * TICKS)
    while bar == first or round(beat_map.bar_start(bar) * TICKS) < last:
        start, end = (round(beat_map.bar_start(at) * TICKS) for at in (bar, bar + 1))
        measure = SubElement(part, "measure", number=str(bar))
        if bar == first == 0 and beat_map.pickup and (not strokes or strokes[0].onset >= end - pickup):
            measure.set("implicit", "yes")  # an incomplete bar that is not counted
            start = end - pickup
        if bar == first:
            _attributes(measure, timed)
        elif beat_map.bar_meter(bar) != meter:
            _time(SubElement(measure, "attributes"), beat_map.bar_meter(bar))
        meter = beat_map.bar_meter(bar)
        if bar == first and score.beat_map.known:
            _tempo(measure, beat_map)
        _swing(measure, beat_map, start / TICKS, end / TICKS)
        _fill(measure, timed, strokes, _Bar(start, end, round(meter.beat_quarters * TICKS)))
        bar += 1
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
    SubElement(attributes, "divisions").text = str(TICKS)
    key = SubElement(attributes, "key")
    sounding = None if score.key is None else score.key.moved(score.tuning.shift)
    SubElement(key, "fifths").text = str(0 if sounding is None else sounding.fifths)
    if sounding is not None and sounding.scale in MODES:
        SubElement(key, "mode").text = MODES[sounding.scale]
    _time(attributes, score.beat_map.bar_meter(score.beat_map.bar_at(_first_quarter(score))))
    clef = SubElement(attributes, "clef")
    SubElement(clef, "sign").text, SubElement(clef, "line").text = "TAB", "5"
    details = SubElement(attributes, "staff-details")
    SubElement(details, "staff-lines").text = str(score.tuning.strings)
    for line, midi in enumerate(reversed(score.tuning.open_midi), start=1):  # line 1 is the lowest
        tuning = SubElement(details, "staff-tuning", line=str(line))
        step, alter, octave = spelled(midi)
        SubElement(tuning, "tuning-step").text = step
        if alter:
            SubElement(tuning, "tuning-alter").text = str(alter)
        SubElement(tuning, "tuning-octave").text = str(octave)
    if score.tuning.capo:
        SubElement(details, "capo").text = str(score.tuning.capo)


def _first_quarter(score: Score) -> float:
    return float(score.beat_map.quarter_at(np.array([score.notes[0].onset_s]))[0]) if score.notes else 0.0


def _time(attributes: Element, meter: Meter) -> None:
    time = SubElement(attributes, "time")
    SubElement(time, "beats").text, SubElement(time, "beat-type").text = str(meter.beats), str(meter.unit)


def _tempo(measure: Element, beat_map: BeatMap) -> None:
    """The tempo as it is felt for the reader, in quarters for what plays it."""
    tempo_bpm, felt = beat_map.tempo_bpm or 60.0, beat_map.meter.beat_quarters
    direction = SubElement(measure, "direction", placement="above")
    metronome = SubElement(SubElement(direction, "direction-type"), "metronome")
    name, dots, _ = VALUES[round(felt * TICKS)]
    SubElement(metronome, "beat-unit").text = name
    for _ in range(dots):
        SubElement(metronome, "beat-unit-dot")
    SubElement(metronome, "per-minute").text = f"{tempo_bpm:.0f}"
    SubElement(direction, "sound", tempo=f"{tempo_bpm * felt:.2f}")


def _swing(measure: Element, beat_map: BeatMap, start: float, end: float) -> None:
    """Where a swung stretch begins or ends in this bar: the mark in words, and what plays it in parts of the beat."""
    for swing in beat_map.swings:
        begins, ends = start - SLACK <= swing.start < end - SLACK, start - SLACK <= swing.end < end - SLACK
        if not (begins or ends):
            continue
        direction = SubElement(measure, "direction", placement="above")
        SubElement(SubElement(direction, "direction-type"), "words").text = "swing" if begins else "straight"
        told = SubElement(SubElement(direction, "sound"), "swing")
        if not begins:
            SubElement(told, "straight")
            continue
        first, second = Fraction(swing.share / (1 - swing.share)).limit_denominator(8).as_integer_ratio()
        SubElement(told, "first").text, SubElement(told, "second").text = str(first), str(second)
        SubElement(told, "swing-type").text = "eighth"


@dataclass(frozen=True, slots=True)
class _Bar:
    """Where a bar begins and ends and how long its felt beat is, in ticks."""

    start: int
    end: int
    beat: int


def _fill(measure: Element, score: Score, strokes: list[_Stroke], bar: _Bar) -> None:
    """Write one bar: notes cut at its lines, rests between them."""
    now = bar.start
    for stroke in strokes:
        first, last = max(stroke.onset, bar.start), min(stroke.onset + stroke.length, bar.end)
        if first >= last:
            continue
        _rest(measure, now, first, bar)
        pieces = _pieces(first, last, bar)
        for number, (at, length) in enumerate(pieces):
            tied_from = at > stroke.onset
            tied_to = number + 1 < len(pieces) or stroke.onset + stroke.length > last
            for position, index in enumerate(stroke.indices):
                _note(measure, score, index, length, chord=position > 0, tied_from=tied_from, tied_to=tied_to)
        now = last
    _rest(measure, now, bar.end, bar)


def _pieces(first: int, last: int, bar: _Bar) -> list[tuple[int, int]]:
    """Split a length into writable values; what is no plain value is cut at the beats first."""
    if (first - bar.start) % PLAIN_STEP == 0 and (last - bar.start) % PLAIN_STEP == 0:
        return _values(first, last)
    next_beat = bar.start + ((first - bar.start) // bar.beat + 1) * bar.beat
    last_beat = bar.start + (last - bar.start) // bar.beat * bar.beat
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
        kinds = {kind} if kind is not None and last - first < TICKS else {kind, PLAIN}
        fits = [v for v, (_, _, of) in VALUES.items() if v <= last - first and (kind is None or of in kinds)]
        longest = max(fits, default=last - first)
        pieces.append((first, longest))
        first += longest
    return pieces


def _rest(measure: Element, first: int, last: int, bar: _Bar) -> None:
    if (first, last) == (bar.start, bar.end):
        note = SubElement(measure, "note")
        SubElement(note, "rest", measure="yes")
        SubElement(note, "duration").text = str(last - first)
        SubElement(note, "voice").text = "1"
        return
    for _, piece in _pieces(first, last, bar):
        note = SubElement(measure, "note")
        SubElement(note, "rest")
        _value(note, piece)


def _value(note: Element, length: int) -> None:
    SubElement(note, "duration").text = str(length)
    SubElement(note, "voice").text = "1"
    _value_type(note, length)


def _value_type(note: Element, length: int) -> None:
    name, dots, (actual, normal) = VALUES.get(length, SMALLEST)
    SubElement(note, "type").text = name
    for _ in range(dots):
        SubElement(note, "dot")
    if actual != normal:
        change = SubElement(note, "time-modification")
        SubElement(change, "actual-notes").text, SubElement(change, "normal-notes").text = str(actual), str(normal)


def _note(
    measure: Element, score: Score, index: int, length: int, *, chord: bool, tied_from: bool, tied_to: bool
) -> None:
    note = score.notes[index]
    element = SubElement(measure, "note")
    if chord:
        SubElement(element, "chord")
    pitch = SubElement(element, "pitch")
    step, alter, octave = spelled(score.fretted_midi(note), score.sounding_key_at(note.onset_s))
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
