"""A solo as MusicXML 4.0: one part on two staves, notes over tablature, a second voice where a note is held.

Source: W3C Music Notation Community Group, "MusicXML 4.0", 2021 (element order and meaning as in its schema).
"""

import re
from dataclasses import dataclass, replace
from fractions import Fraction
from xml.etree.ElementTree import Element, SubElement, indent, tostring

import numpy as np

from notcher.core.formats.files.xml_text import without_controls
from notcher.core.formats.musicxml.kinds import CENTS, CHOKED, FADED_IN, KEY, KINDS, PHRASE, RAKE, STRUCK_AGAIN, TAPPED
from notcher.core.score import (
    EDGE_S,
    LEGATO_ATTACKS,
    LINK_S,
    Attack,
    BeatMap,
    End,
    Meter,
    Note,
    Score,
    Tone,
    techniques,
)
from notcher.core.score.beat_map import SLACK
from notcher.core.score.notation import Bar, NotatedPiece, value_of, written_bars
from notcher.core.score.rhythm import TICKS
from notcher.core.theory import spelled

HEADER = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
    '"http://www.musicxml.org/dtds/partwise.dtd">\n'
)
CHORD_NAME = re.compile(r"(?P<root>[A-G][#b♯♭]?)(?P<kind>[^/]*)(?:/(?P<bass>[A-G][#b♯♭]?))?")
CHORD_STEP = TICKS // 4
"""A chord symbol stands on a quarter of a quarter."""
KIND_NAMES = {symbol: name for name, symbol in KINDS.items()}
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


def musicxml_text(score: Score) -> str:
    """Return the solo as a MusicXML document; without a beat map it is counted at 60 beats a minute."""
    timed = score if score.beat_map.known else replace(score, beat_map=BeatMap.steady(60, 0.0))
    root = Element("score-partwise", version="4.0")
    SubElement(SubElement(root, "work"), "work-title").text = score.title or "Untitled solo"
    identification = SubElement(root, "identification")
    SubElement(SubElement(identification, "encoding"), "software").text = "Notcher"
    _of_our_own(SubElement(identification, "miscellaneous"), timed)
    part_list = SubElement(root, "part-list")
    SubElement(SubElement(part_list, "score-part", id="P1"), "part-name").text = "Lead guitar"
    part = SubElement(root, "part", id="P1")
    beat_map, meter = timed.beat_map, None
    bars = written_bars(timed)
    for bar in bars:
        measure = SubElement(part, "measure", number=str(bar.number))
        if bar.implicit:
            measure.set("implicit", "yes")
        if bar is bars[0]:
            _attributes(measure, timed)
        elif bar.meter != meter:
            _time(SubElement(measure, "attributes"), bar.meter)
        meter = bar.meter
        if bar is bars[0] and score.beat_map.known:
            _tempo(measure, beat_map)
        _swing(measure, beat_map, bar.start / TICKS, bar.end / TICKS)
        _titles(measure, score, bar)
        _chords(measure, timed, bar)
        _staves(measure, timed, bar)
    indent(root, " ")
    return HEADER + without_controls(tostring(root, encoding="unicode")) + "\n"


def _of_our_own(miscellaneous: Element, score: Score) -> None:
    """What the format has no element for: where phrases begin and end, the key that was said, how far off concert
    pitch."""
    fields: list[tuple[str, str]] = []
    if score.tuning.offset_cents:
        fields.append((CENTS, f"{score.tuning.offset_cents:g}"))
    if score.key is not None:
        fields.append((KEY, f"{score.key.tonic} {score.key.scale}"))
    edges_s = np.array([[phrase.start_s, phrase.end_s] for phrase in score.phrases]).reshape(-1, 2)
    for phrase, (begin, end) in zip(score.phrases, score.beat_map.quarter_at(edges_s).tolist(), strict=True):
        fields.append((PHRASE, f"{begin:.6f} {end:.6f} {phrase.name}".rstrip()))
    for name, text in fields:
        SubElement(miscellaneous, "miscellaneous-field", name=name).text = text


def _titles(measure: Element, score: Score, bar: Bar) -> None:
    """Sections that begin in a bar, as rehearsal marks; phrases as words."""
    if not score.beat_map.known:
        return
    begin_s, end_s = (score.beat_map.time(at / TICKS) for at in (bar.start, bar.end))
    for name, spans in (("rehearsal", score.sections), ("words", score.phrases)):
        for span in spans:
            if begin_s - EDGE_S <= span.start_s < end_s - EDGE_S and span.name:
                at = score.beat_map.quarter(span.start_s)
                _words(measure, name, span.name, at - bar.start / TICKS)


def _words(measure: Element, name: str, text: str, quarters: float) -> Element:
    """Say something over a bar, so far into it."""
    direction = SubElement(measure, "direction", placement="above")
    SubElement(SubElement(direction, "direction-type"), name).text = text
    if (ticks := round(quarters * TICKS)) > 0:
        SubElement(direction, "offset", sound="yes").text = str(ticks)
    return direction


def _chords(measure: Element, score: Score, bar: Bar) -> None:
    """Chord symbols where they begin: time goes forward to each and back again."""
    quarters = score.beat_map.quarter_at(np.array([chord.start_s for chord in score.chords])) * TICKS
    now = bar.start
    for chord, quarter in zip(score.chords, quarters.tolist(), strict=True):
        at = round(quarter / CHORD_STEP) * CHORD_STEP
        match = CHORD_NAME.fullmatch(chord.name.strip())
        if not bar.start <= at < bar.end or match is None:
            continue
        _step(measure, "forward", at - now)
        now = at
        harmony = SubElement(measure, "harmony")
        _root(SubElement(harmony, "root"), "root", match["root"])
        kind = SubElement(harmony, "kind", text=match["kind"])
        kind.text = KIND_NAMES.get(match["kind"], "other")
        if match["bass"]:
            _root(SubElement(harmony, "bass"), "bass", match["bass"])
    _step(measure, "backup", now - bar.start)


def _root(element: Element, name: str, letter: str) -> None:
    SubElement(element, f"{name}-step").text = letter[0]
    if letter[1:]:
        SubElement(element, f"{name}-alter").text = "1" if letter[1] in "#♯" else "-1"


def _step(measure: Element, way: str, length: int) -> None:
    """Go forward or back in a bar."""
    if length > 0:
        SubElement(SubElement(measure, way), "duration").text = str(length)


@dataclass(frozen=True, slots=True)
class _Place:
    """Which staff of the part, 1 for notes, 2 for tablature; which voice."""

    staff: int
    voice: int


def _staves(measure: Element, score: Score, bar: Bar) -> None:
    """The notes of a bar on both staves, voice after voice; time goes back before each."""
    now = bar.start
    for staff in (1, 2):
        for number, pieces in enumerate(bar.voices):
            _step(measure, "backup", now - bar.start)
            now = bar.start
            ends = _tuplet_ends(pieces)
            for piece in pieces:
                _step(measure, "forward", piece.start - now)
                _sign(measure, score, piece, _Place(staff, 1 + number + 4 * (staff - 1)), ends.get(piece.start, ()))
                now = piece.end


def _tuplet_ends(pieces: tuple[NotatedPiece, ...]) -> dict[int, tuple[str, ...]]:
    """Where tuplets begin and end, by the start of their first and last signs."""
    ends: dict[int, tuple[str, ...]] = {}
    for number in {piece.tuplet for piece in pieces if piece.tuplet >= 0}:
        inside = [piece.start for piece in pieces if piece.tuplet == number]
        if len(inside) > 1:
            ends[inside[0]] = (*ends.get(inside[0], ()), "start")
            ends[inside[-1]] = (*ends.get(inside[-1], ()), "stop")
    return ends


def _attributes(measure: Element, score: Score) -> None:
    attributes = SubElement(measure, "attributes")
    SubElement(attributes, "divisions").text = str(TICKS)
    key = SubElement(attributes, "key")
    sounding = None if score.key is None else score.key.moved(score.tuning.shift)
    SubElement(key, "fifths").text = str(0 if sounding is None else sounding.fifths)
    if sounding is not None and sounding.scale in MODES:
        SubElement(key, "mode").text = MODES[sounding.scale]
    _time(attributes, score.beat_map.bar_meter(score.beat_map.bar_at(_first_quarter(score))))
    SubElement(attributes, "staves").text = "2"
    clef = SubElement(attributes, "clef", number="1")
    SubElement(clef, "sign").text, SubElement(clef, "line").text = "G", "2"
    SubElement(clef, "clef-octave-change").text = "-1"
    clef = SubElement(attributes, "clef", number="2")
    SubElement(clef, "sign").text, SubElement(clef, "line").text = "TAB", "5"
    details = SubElement(attributes, "staff-details", number="2")
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
    return score.beat_map.quarter(score.notes[0].onset_s) if score.notes else 0.0


def _time(attributes: Element, meter: Meter) -> None:
    time = SubElement(attributes, "time")
    SubElement(time, "beats").text, SubElement(time, "beat-type").text = str(meter.beats), str(meter.unit)


def _tempo(measure: Element, beat_map: BeatMap) -> None:
    """The tempo as it is felt for the reader, in quarters for what plays it."""
    tempo_bpm, felt = beat_map.tempo_bpm or 60.0, beat_map.meter.beat_quarters
    direction = SubElement(measure, "direction", placement="above")
    metronome = SubElement(SubElement(direction, "direction-type"), "metronome")
    value = value_of(round(felt * TICKS))
    SubElement(metronome, "beat-unit").text = value.name
    for _ in range(value.dots):
        SubElement(metronome, "beat-unit-dot")
    SubElement(metronome, "per-minute").text = f"{tempo_bpm:.0f}"
    SubElement(direction, "sound", tempo=f"{tempo_bpm * felt:.2f}")


def _swing(measure: Element, beat_map: BeatMap, start: float, end: float) -> None:
    """Where a swung stretch begins or ends in this bar: the mark in words, and what plays it in parts of the beat."""
    for swing in beat_map.swings:
        begins, ends = start - SLACK <= swing.start < end - SLACK, start - SLACK <= swing.end < end - SLACK
        if not (begins or ends):
            continue
        direction = _words(
            measure, "words", "swing" if begins else "straight", (swing.start if begins else swing.end) - start
        )
        sub_element = SubElement(SubElement(direction, "sound"), "swing")
        if not begins:
            SubElement(sub_element, "straight")
            continue
        first, second = Fraction(swing.share / (1 - swing.share)).limit_denominator(8).as_integer_ratio()
        SubElement(sub_element, "first").text, SubElement(sub_element, "second").text = str(first), str(second)
        SubElement(sub_element, "swing-type").text = "eighth"


def _sign(measure: Element, score: Score, piece: NotatedPiece, place: _Place, tuplet: tuple[str, ...]) -> None:
    """Write a rest, or the notes that begin together. tuplet: whether one begins or ends here."""
    for position, index in enumerate(piece.indices):
        _note(measure, score, index, piece, place, chord=position > 0, tuplet=tuplet)
    if not piece.rest:
        return
    note = SubElement(measure, "note")
    rest = SubElement(note, "rest")
    SubElement(note, "duration").text = str(piece.length)
    SubElement(note, "voice").text = str(place.voice)
    if piece.whole_bar:
        rest.set("measure", "yes")
    else:
        _value_type(note, piece.length)
    SubElement(note, "staff").text = str(place.staff)
    if tuplet:
        _tuplets(SubElement(note, "notations"), tuplet)


def _tuplets(notations: Element, ends: tuple[str, ...]) -> None:
    for kind in ends:
        SubElement(notations, "tuplet", type=kind, number="1")


def _value_type(note: Element, length: int) -> None:
    value = value_of(length)
    actual, normal = value.kind
    SubElement(note, "type").text = value.name
    for _ in range(value.dots):
        SubElement(note, "dot")
    if actual != normal:
        change = SubElement(note, "time-modification")
        SubElement(change, "actual-notes").text, SubElement(change, "normal-notes").text = str(actual), str(normal)


def _note(
    measure: Element,
    score: Score,
    index: int,
    piece: NotatedPiece,
    place: _Place,
    *,
    chord: bool,
    tuplet: tuple[str, ...],
) -> None:
    note = score.notes[index]
    element = SubElement(measure, "note")
    if chord:
        SubElement(element, "chord")
    pitch = SubElement(element, "pitch")
    step, alter, octave = spelled(_written_midi(score, note), score.sounding_key_at(note.onset_s))
    SubElement(pitch, "step").text = step
    if alter:
        SubElement(pitch, "alter").text = str(alter)
    SubElement(pitch, "octave").text = str(octave)
    SubElement(element, "duration").text = str(piece.length)
    ties = [kind for kind, is_so in (("stop", piece.tied_from), ("start", piece.tied_to)) if is_so]
    for kind in ties:
        SubElement(element, "tie", type=kind)
    SubElement(element, "voice").text = str(place.voice)
    _value_type(element, piece.length)
    if note.tone is Tone.DEAD:
        SubElement(element, "notehead").text = "x"
    SubElement(element, "staff").text = str(place.staff)
    rings = note.end is End.RINGS and not piece.tied_to
    notations = SubElement(element, "notations")
    for kind in [*ties, *(["let-ring"] if rings else [])]:
        SubElement(notations, "tied", type=kind)
    if not chord:
        _tuplets(notations, tuplet)
    if place.staff == 2:
        _technical(notations, score, index, first=not piece.tied_from, last=not piece.tied_to)
    if note.palm_muted:
        SubElement(SubElement(element, "play"), "mute").text = "palm"


def _written_midi(score: Score, note: Note) -> float:
    """The pitch that is written: of a natural harmonic what sounds, as it says of itself."""
    return round(score.sounding_midi(note)) if note.tone is Tone.NATURAL_HARMONIC else score.fretted_midi(note)


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
    if (first and "slide_in" in names) or (last and note.end is End.SLIDES_AWAY):
        articulations = SubElement(notations, "articulations")
        if first and "slide_in" in names:
            SubElement(articulations, "scoop")
        if last and note.end is End.SLIDES_AWAY:
            SubElement(articulations, "falloff")
    technical = SubElement(notations, "technical")
    SubElement(technical, "string").text = str(note.string)
    SubElement(technical, "fret").text = str(max(0, note.fret - score.tuning.capo))
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
        harmonic = SubElement(technical, "harmonic")
        SubElement(harmonic, "natural")
        SubElement(harmonic, "sounding-pitch")
    elif note.tone in (Tone.SQUEAL_HARMONIC, Tone.TAPPED_HARMONIC):
        SubElement(SubElement(technical, "harmonic"), "artificial")
    others = ((RAKE, note.raked), (STRUCK_AGAIN, note.attack is Attack.REPICK), (FADED_IN, note.attack is Attack.SWELL),
              (TAPPED, note.tone is Tone.TAPPED_HARMONIC), (CHOKED, note.end is End.CHOKED))  # fmt: skip
    for words, is_so in others:
        if is_so:
            SubElement(technical, "other-technical").text = words


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
