"""One part of a MusicXML document, gathered: its notes at their written times, and what is said over them.

Source: W3C Music Notation Community Group, "MusicXML 4.0", 2021.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from xml.etree.ElementTree import Element

import numpy as np

from notcher.core.formats.import_result import Unread, check_note_count
from notcher.core.formats.musicxml.kinds import CHOKED, FADED_IN, KINDS, RAKE, STRUCK_AGAIN, TAPPED
from notcher.core.score import FOUR_FOUR, Attack, End, Meter, PickStroke, Tone
from notcher.core.score.beat_map import MOST_SWING

STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
GRACE = Fraction(1, 8)
"""Of a quarter, that a grace note takes from what is before it (common practice, no source)."""
SMALLEST = Fraction(1, 1000)
"""Of a division."""
USUAL_BPM = 100.0  # where the file says none


@dataclass(slots=True)
class ReadNote:
    """One note as it is gathered. onset, length: quarters. midi: as it sounds."""

    onset: Fraction
    length: Fraction
    midi: float
    staff: str
    string: int | None = None
    fret: int | None = None
    attack: Attack = Attack.PICK
    tone: Tone = Tone.NORMAL
    muted: bool = False
    vibrato: bool = False
    bends: list[tuple[str, float]] = field(default_factory=list)
    tied_on: bool = False
    end: End = End.STOPS
    raked: bool = False
    slid_in: bool = False
    grace: bool = False
    finger: int | None = None
    stroke: PickStroke | None = None


@dataclass(slots=True)
class Part:
    """A part as it is gathered. opens: by line of the staff. before: quarters before bar 1, a pickup or a whole bar."""

    notes: list[ReadNote] = field(default_factory=list)
    chords: list[tuple[Fraction, str]] = field(default_factory=list)
    sections: list[tuple[Fraction, str]] = field(default_factory=list)
    meters: list[tuple[Fraction, Meter]] = field(default_factory=list)
    tempi: list[tuple[Fraction, float]] = field(default_factory=list)
    swings: list[tuple[Fraction, float]] = field(default_factory=list)  # from where on, and the first eighth's share
    opens: dict[int, float] = field(default_factory=dict)  # by line, 1 the lowest
    capo: int = 0
    before: Fraction = Fraction(0)


class Lined(Element):
    """An element that knows where it stands."""

    __slots__ = ("column", "line")
    line: int
    column: int


def unread_at(item: Element, what: str) -> Unread:
    return Unread(getattr(item, "line", 1), getattr(item, "column", 1), what)


def number_in(element: Element | None, path: str, usual: float = 0.0) -> float:
    """Return the number in an element below another; the usual one where there is none."""
    text = element.findtext(path) if element is not None else None
    try:
        value = float(text) if text is not None else usual
    except ValueError:
        return usual
    return value if np.isfinite(value) else usual


def part_of(element: Element, unread: list[Unread]) -> Part:
    """Gather a part. unread: takes what could not be read."""
    gathering = _Gathering(unread)
    for number, measure in enumerate(element.findall("measure")):
        gathering.take_bar(measure, number)
        check_note_count(len(gathering.part.notes) // 2)  # as notation and as tablature
    return gathering.part


class _Gathering:
    """Where a part's reading is; times in quarters, `now` where the next note of the voice begins."""

    def __init__(self, unread: list[Unread]) -> None:
        self.part, self._unread = Part(), unread
        self._divisions, self._transpose, self._meter = Fraction(1), 0.0, FOUR_FOUR
        self._bar_at = self._now = self._onset = Fraction(0)
        self._graces: list[Element] = []
        self._bar_name = ""
        self._by_tag: dict[str, Callable[[Element], None]] = {
            "attributes": self._take_attributes,
            "backup": self._step_back,
            "forward": self._step_on,
            "direction": self._take_direction,
            "sound": self._take_direction,
            "harmony": self._take_chord,
            "note": self._take_note,
        }

    def take_bar(self, measure: Element, number: int) -> None:
        """Take the next bar; number: how many were before it."""
        bar_at = furthest = self._now = self._onset = self._bar_at
        self._bar_name = measure.get("number", str(number + 1))
        for item in measure:
            if item.tag in self._by_tag:
                self._by_tag[item.tag](item)
            furthest = max(furthest, self._now)
        self._put_graces(self._now)
        length = Fraction(self._meter.quarters).limit_denominator(1000)
        uncounted = measure.get("implicit") == "yes" or measure.get("number") == "0"
        if number == 0 and uncounted and furthest - bar_at <= length:
            self.part.before = furthest - bar_at
        self._bar_at = furthest if number == 0 and self.part.before else max(furthest, bar_at + length)

    def _take_attributes(self, item: Element) -> None:
        divisions = Fraction(number_in(item, "divisions", float(self._divisions))).limit_denominator(100_000)
        self._divisions = divisions or self._divisions
        self._transpose = _transpose(item, self._transpose)
        self._meter = _meter(item, self._meter, self._bar_at, self.part, self._unread)
        _staff(item, self.part)

    def _step_back(self, item: Element) -> None:
        self._now = max(self._bar_at, self._now - _quarters(item, "duration", self._divisions))

    def _step_on(self, item: Element) -> None:
        self._now += _quarters(item, "duration", self._divisions)

    def _take_direction(self, item: Element) -> None:
        part, at = self.part, self._now + _quarters(item, "offset", self._divisions)
        mark = (item.findtext("direction-type/rehearsal") or "").strip()
        if mark:
            part.sections.append((at, mark[:200]))
        sound = item if item.tag == "sound" else item.find("sound")
        if sound is not None and (swing := sound.find("swing")) is not None:
            part.swings.append((at, _share(swing)))
        if sound is not None and sound.get("tempo"):
            part.tempi.append((at, _number_text(sound.get("tempo"), USUAL_BPM)))
        elif item.find(".//per-minute") is not None and not part.tempi:
            part.tempi.append((at, number_in(item, ".//per-minute", USUAL_BPM) * _unit(item)))

    def _take_chord(self, item: Element) -> None:
        if name := _chord(item):
            self.part.chords.append((self._now, name))

    def _take_note(self, item: Element) -> None:
        if item.find("grace") is not None:
            self._graces.append(item)
            return
        length = _quarters(item, "duration", self._divisions)
        if item.find("chord") is None:
            self._onset, self._now = self._now, self._now + length
        self._put_graces(self._onset)
        if item.find("pitch") is not None:
            _take(item, self.part, self._onset, length, self._transpose)
        elif item.find("unpitched") is not None:
            self._unread.append(unread_at(item, f"a note without pitch in bar {self._bar_name}"))

    def _put_graces(self, at: Fraction) -> None:
        """Put the grace notes that wait before what begins at a time."""
        _graces(self._graces, self.part, at, self._transpose)


def _quarters(item: Element, path: str, divisions: Fraction) -> Fraction:
    """A length that is told in divisions of a quarter."""
    return Fraction(number_in(item, path)).limit_denominator(100_000) / max(divisions, SMALLEST)


def _share(swing: Element) -> float:
    """How much of a beat its first eighth takes."""
    first, second = number_in(swing, "first", 1.0), number_in(swing, "second", 1.0)
    straight = swing.find("straight") is not None or first <= second or second <= 0
    return 0.5 if straight else min(first / (first + second), MOST_SWING)


def _number_text(text: str | None, usual: float) -> float:
    try:
        value = float(text or "")
    except ValueError:
        return usual
    return value if 10 <= value <= 1000 else usual


def _unit(item: Element) -> float:
    """Quarters of a metronome's beat unit."""
    units = {"whole": 4.0, "half": 2.0, "quarter": 1.0, "eighth": 0.5, "16th": 0.25}
    dotted = item.find(".//beat-unit-dot") is not None
    return units.get(item.findtext(".//beat-unit") or "quarter", 1.0) * (1.5 if dotted else 1.0)


def _transpose(item: Element, before: float) -> float:
    element = item.find("transpose")
    if element is None:
        return before
    return number_in(element, "chromatic") + 12 * number_in(element, "octave-change")


def _meter(item: Element, before: Meter, at: Fraction, part: Part, unread: list[Unread]) -> Meter:
    time = item.find("time")
    if time is None or time.find("beats") is None:
        return before
    try:
        meter = Meter(
            sum(int(beats) for beats in (time.findtext("beats") or "4").split("+")),
            int(number_in(time, "beat-type", 4)),
        )
    except ValueError:
        unread.append(unread_at(item, f"the meter {time.findtext('beats')}/{time.findtext('beat-type')}"))
        return before
    part.meters.append((at, meter))
    return meter


def _staff(item: Element, part: Part) -> None:
    for details in item.findall("staff-details"):
        part.capo = min(12, max(0, int(number_in(details, "capo", part.capo))))
        for tuning in details.findall("staff-tuning"):
            step = tuning.findtext("tuning-step") or ""
            if step in STEPS and (tuning.get("line") or "").isdecimal():
                octave, alter = number_in(tuning, "tuning-octave", 4), number_in(tuning, "tuning-alter")
                part.opens[int(tuning.get("line") or 1)] = 12 * (octave + 1) + STEPS[step] + alter


def _chord(item: Element) -> str:
    step = item.findtext("root/root-step") or ""
    kind = item.find("kind")
    if step not in STEPS or kind is None:
        return ""
    sign = {1.0: "#", -1.0: "b"}.get(number_in(item, "root/root-alter"), "")
    bass = item.findtext("bass/bass-step")
    lower = {1.0: "#", -1.0: "b"}.get(number_in(item, "bass/bass-alter"), "")
    name = f"{step}{sign}{KINDS.get((kind.text or '').strip(), kind.get('text') or '')}"
    return f"{name}/{bass}{lower}" if bass in STEPS else name


def _graces(items: list[Element], part: Part, onset: Fraction, transpose: float) -> None:
    """Grace notes before what follows at an onset, one after another; the list is empty then."""
    remaining = 1 + sum(item.find("chord") is None for item in items)
    for item in items:
        remaining -= item.find("chord") is None
        if item.find("pitch") is not None:
            _take(item, part, onset - remaining * GRACE, GRACE, transpose, grace=True)
    items.clear()


def _take(
    item: Element, part: Part, onset: Fraction, length: Fraction, transpose: float, *, grace: bool = False
) -> None:
    pitch = item.find("pitch")
    step = (pitch.findtext("step") if pitch is not None else "") or "C"
    midi = 12 * (number_in(pitch, "octave", 4) + 1) + STEPS.get(step, 0) + number_in(pitch, "alter") + transpose
    staff, ties = item.findtext("staff") or "1", {tie.get("type") for tie in item.findall("tie")}
    if "stop" in ties:
        string = (item.findtext("notations/technical/string") or "").strip()
        before = next(
            (n for n in reversed(part.notes) if n.tied_on and n.midi == midi and n.staff == staff
             and string in ("", str(n.string)) and abs(n.onset + n.length - onset) < Fraction(1, 64)),
            None,
        )  # fmt: skip
        if before is not None:
            before.length += length
            before.tied_on = "start" in ties
            _played(item, before)
            return
    note = ReadNote(onset, length, midi, staff, tied_on="start" in ties and not grace, grace=grace)
    _played(item, note)
    part.notes.append(note)


def _played(item: Element, note: ReadNote) -> None:
    """String and fret, and how the note is played."""
    if item.findtext("notehead") == "x":
        note.tone = Tone.DEAD
    if item.findtext("play/mute") == "palm" or item.findtext(".//mute") == "palm":
        note.tone, note.muted = Tone.PALM_MUTE, True
    for notations in item.findall("notations"):
        _notated(notations, note)
        technical = notations.find("technical")
        if technical is not None:
            _fingered(technical, note)
            _techniques(technical, note)


def _notated(notations: Element, note: ReadNote) -> None:
    """What stands beside the technical signs: slides, vibrato, ringing, scoops and falls."""
    if any(slide.get("type") == "stop" for name in ("slide", "glissando") for slide in notations.findall(name)):
        note.attack = Attack.SLIDE
    note.vibrato |= notations.find("ornaments/wavy-line") is not None
    if any(tied.get("type") == "let-ring" for tied in notations.findall("tied")):
        note.end = End.RINGS
    for articulations in notations.findall("articulations"):
        note.slid_in |= any(articulations.find(name) is not None for name in ("scoop", "plop"))
        if any(articulations.find(name) is not None for name in ("falloff", "doit")):
            note.end = End.SLIDES_AWAY


def _fingered(technical: Element, note: ReadNote) -> None:
    """Place, finger and pick stroke."""
    if (string := technical.findtext("string")) and string.strip().isdecimal():
        note.string = int(string)
    if (fret := technical.findtext("fret")) and fret.strip().isdecimal():
        note.fret = int(fret)
    if (finger := (technical.findtext("fingering") or "").strip()) in ("1", "2", "3", "4"):
        note.finger = int(finger)
    for name, stroke in (("down-bow", PickStroke.DOWN), ("up-bow", PickStroke.UP)):
        if technical.find(name) is not None:
            note.stroke = stroke


BENDS = (("pre", "pre-bend"), ("release", "release"), ("bar", "with-bar"))


def _techniques(technical: Element, note: ReadNote) -> None:
    """How the note is begun, its tone, and how it is bent."""
    for name, attack in (("hammer-on", Attack.HAMMER), ("pull-off", Attack.PULL)):
        if any(join.get("type") == "stop" for join in technical.findall(name)):
            note.attack = attack
    if technical.find("tap") is not None:
        note.attack = Attack.TAP
    harmonic = technical.find("harmonic")
    if harmonic is not None:
        natural = harmonic.find("artificial") is None
        note.tone = Tone.NATURAL_HARMONIC if natural else Tone.SQUEAL_HARMONIC
    for other in technical.findall("other-technical"):
        _otherwise((other.text or "").strip(), note)
    for bend in technical.findall("bend"):
        kind = next((kind for kind, mark in BENDS if bend.find(mark) is not None), "up")
        note.bends.append((kind, number_in(bend, "bend-alter")))


def _otherwise(words: str, note: ReadNote) -> None:
    """What is done to a note in our own words."""
    if words == RAKE:
        note.raked = True
    elif words == CHOKED:
        note.end = End.CHOKED
    elif words == TAPPED:
        note.tone = Tone.TAPPED_HARMONIC
    elif words in (STRUCK_AGAIN, FADED_IN):
        note.attack = Attack.REPICK if words == STRUCK_AGAIN else Attack.SWELL
