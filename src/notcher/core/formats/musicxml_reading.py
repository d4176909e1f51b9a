"""Reading MusicXML, of any version, plain or compressed: one part's notes with their times, strings and frets.

Source: W3C Music Notation Community Group, "MusicXML 4.0", 2021. Written times are kept as beats; where a note carries
no string and fret it is placed. Entities are refused, so that no small file can unfold into a huge one.
"""

import io
import zipfile
from dataclasses import dataclass, field, replace
from fractions import Fraction
from xml.etree.ElementTree import Element, TreeBuilder
from xml.parsers import expat

import numpy as np

from notcher.core.formats.atomic import FileError
from notcher.core.formats.musicxml_kinds import KINDS
from notcher.core.formats.reading import MOST_UNREAD, PlaceError, Reading, Unread, placed, without_overlaps
from notcher.core.score import (
    FOUR_FOUR,
    LAST_FRET,
    STANDARD,
    Attack,
    BeatMap,
    Chord,
    End,
    Meter,
    MeterChange,
    Note,
    Score,
    Section,
    Stroke,
    Tone,
    Tuning,
    Vibrato,
    bent_curve,
    new_id,
)

MOST_BYTES = 64 * 2**20
STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
USUAL_BPM, LEAD_S = 100.0, 0.5
HELD = 0.95  # of its value that a note is held


@dataclass(slots=True)
class _Heard:
    """One note as it is gathered. onset, length: quarters. midi: as it sounds."""

    onset: Fraction
    length: Fraction
    midi: float
    staff: str
    string: int | None = None
    fret: int | None = None
    attack: Attack = Attack.PICK
    tone: Tone = Tone.NORMAL
    vibrato: bool = False
    bends: list[tuple[str, float]] = field(default_factory=list)
    tied_on: bool = False
    rings: bool = False
    finger: int | None = None
    stroke: Stroke | None = None


@dataclass(slots=True)
class _Part:
    notes: list[_Heard] = field(default_factory=list)
    chords: list[tuple[Fraction, str]] = field(default_factory=list)
    sections: list[tuple[Fraction, str]] = field(default_factory=list)
    meters: list[tuple[Fraction, Meter]] = field(default_factory=list)
    tempi: list[tuple[Fraction, float]] = field(default_factory=list)
    opens: dict[int, float] = field(default_factory=dict)  # by line, 1 the lowest
    capo: int = 0
    pickup: Fraction = Fraction(0)


def read_musicxml(data: bytes, *, title: str = "", part: str = "") -> Reading:
    """Read a MusicXML document. part: the id or name of the part that is wanted; else the one with tablature, or the
    first with notes. Raises: FileError."""
    root = _root(_unpacked(data))
    if root.tag != "score-partwise":
        raise FileError(
            f"This MusicXML is a {root.tag!r}.", "Save it as score-partwise, which is what most programs write."
        )
    unread: list[Unread] = []
    names = {
        element.get("id", ""): (element.findtext("part-name") or "").strip() for element in root.iter("score-part")
    }
    parts = {element.get("id", ""): _part(element, unread) for element in root.findall("part")}
    chosen = _chosen(parts, names, part)
    said = root.findtext("work/work-title") or root.findtext("movement-title") or title
    score = _score(parts[chosen], said.strip(), unread)
    playing = tuple(names.get(name) or name for name, one in parts.items() if one.notes)
    if len(playing) > 1:
        unread.append(Unread(1, 1, f"only the part {names.get(chosen) or chosen!r} is read of several"))
    return Reading(score, tuple(unread[:MOST_UNREAD]), timed=True, parts=playing, part=names.get(chosen) or chosen)


# --- the file ---
def _unpacked(data: bytes) -> bytes:
    """The document itself; of a compressed one the file that its container names."""
    if not data.startswith(b"PK"):
        return data
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            container = _root(_member(archive, "META-INF/container.xml"))
            path = next((e.get("full-path") for e in container.iter() if e.tag.endswith("rootfile")), None)
            return _member(archive, path or "")
    except FileError:
        raise
    except Exception as problem:  # a damaged zip raises many things
        raise FileError("This compressed MusicXML is damaged.", "Write it again, uncompressed.") from problem


def _member(archive: zipfile.ZipFile, name: str) -> bytes:
    if name not in archive.namelist():
        raise FileError("This compressed MusicXML holds no score.", "Write it again, uncompressed.")
    if archive.getinfo(name).file_size > MOST_BYTES:
        raise FileError("This compressed MusicXML claims to be of absurd size.", "Do not trust this file.")
    return archive.read(name)


class _Lined(Element):
    """An element that knows where it stands."""

    line, column = 1, 1


def _unread(item: Element, what: str) -> Unread:
    return Unread(getattr(item, "line", 1), getattr(item, "column", 1), what)


def _root(data: bytes) -> Element:
    """Parse a document, with the place of each element; entities are refused."""
    if len(data) > MOST_BYTES:
        raise FileError("This MusicXML is of absurd size.", "Do not trust this file.")
    parser = expat.ParserCreate()
    builder = TreeBuilder(element_factory=_Lined)

    def start(tag: str, attributes: dict[str, str]) -> None:
        element = builder.start(tag, attributes)
        if isinstance(element, _Lined):
            element.line, element.column = parser.CurrentLineNumber, parser.CurrentColumnNumber + 1

    def refuse(*_: object) -> None:
        raise FileError("This MusicXML unfolds into something else.", "Do not trust this file.")

    parser.StartElementHandler, parser.EndElementHandler = start, builder.end
    parser.CharacterDataHandler, parser.EntityDeclHandler = builder.data, refuse
    try:
        parser.Parse(data, True)
        return builder.close()
    except (expat.ExpatError, ValueError, LookupError, AssertionError) as problem:
        line, column = getattr(problem, "lineno", 0), getattr(problem, "offset", 0)
        raise FileError(f"This is no MusicXML: line {line}, column {column + 1}.", "Write it again.") from problem


def _chosen(parts: dict[str, _Part], names: dict[str, str], wanted: str) -> str:
    with_notes = [name for name, one in parts.items() if one.notes]
    if not with_notes:
        raise FileError("There are no notes in this MusicXML.", "Choose another file.")
    if wanted:
        found = next((name for name in parts if wanted in (name, names.get(name))), None)
        if found is None:
            raise FileError(f"There is no part {wanted!r}.", f"There are {', '.join(names.values())}.")
        return found
    return next((n for n in with_notes if any(note.fret is not None for note in parts[n].notes)), with_notes[0])


# --- one part ---
def _number(element: Element | None, path: str, usual: float = 0.0) -> float:
    text = element.findtext(path) if element is not None else None
    try:
        value = float(text) if text is not None else usual
    except ValueError:
        return usual
    return value if np.isfinite(value) else usual


def _part(element: Element, unread: list[Unread]) -> _Part:
    part = _Part()
    divisions, transpose, bar_at = Fraction(1), 0.0, Fraction(0)
    meter = FOUR_FOUR
    for number, measure in enumerate(element.findall("measure")):
        now = furthest = bar_at
        onset = bar_at
        for item in measure:
            if item.tag == "attributes":
                divisions = (
                    Fraction(_number(item, "divisions", float(divisions))).limit_denominator(100_000) or divisions
                )
                transpose = _transpose(item, transpose)
                meter = _meter(item, meter, bar_at, part, unread)
                _staff(item, part)
            elif item.tag in ("backup", "forward"):
                step = Fraction(_number(item, "duration")).limit_denominator(100_000) / max(
                    divisions, Fraction(1, 1000)
                )
                now = max(bar_at, now - step) if item.tag == "backup" else now + step
            elif item.tag in ("direction", "sound"):
                mark = (item.findtext("direction-type/rehearsal") or "").strip()
                if mark:
                    part.sections.append((now, mark[:200]))
                sound = item if item.tag == "sound" else item.find("sound")
                if sound is not None and sound.get("tempo"):
                    part.tempi.append((now, _number_text(sound.get("tempo"), USUAL_BPM)))
                elif item.find(".//per-minute") is not None and not part.tempi:
                    part.tempi.append((now, _number(item, ".//per-minute", USUAL_BPM) * _unit(item)))
            elif item.tag == "harmony":
                if name := _chord(item):
                    part.chords.append((now, name))
            elif item.tag == "note":
                length = Fraction(_number(item, "duration")).limit_denominator(100_000) / max(
                    divisions, Fraction(1, 1000)
                )
                if item.find("grace") is not None:
                    unread.append(_unread(item, f"a grace note in bar {measure.get('number', number + 1)}"))
                    continue
                if item.find("chord") is None:
                    onset, now = now, now + length
                if item.find("pitch") is not None:
                    _take(item, part, onset, length, transpose)
                elif item.find("unpitched") is not None:
                    unread.append(_unread(item, f"a note without pitch in bar {measure.get('number', number + 1)}"))
            furthest = max(furthest, now)
        length = Fraction(meter.quarters).limit_denominator(1000)
        if number == 0 and measure.get("implicit") == "yes" and furthest - bar_at < length:
            part.pickup = furthest - bar_at
        bar_at = furthest if number == 0 and part.pickup else max(furthest, bar_at + length)
        if furthest == bar_at - length or furthest > bar_at:
            bar_at = max(bar_at, furthest)
    return part


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
    found = item.find("transpose")
    if found is None:
        return before
    return _number(found, "chromatic") + 12 * _number(found, "octave-change")


def _meter(item: Element, before: Meter, at: Fraction, part: _Part, unread: list[Unread]) -> Meter:
    time = item.find("time")
    if time is None or time.find("beats") is None:
        return before
    try:
        meter = Meter(
            sum(int(beats) for beats in (time.findtext("beats") or "4").split("+")), int(_number(time, "beat-type", 4))
        )
    except ValueError:
        unread.append(_unread(item, f"the meter {time.findtext('beats')}/{time.findtext('beat-type')}"))
        return before
    part.meters.append((at, meter))
    return meter


def _staff(item: Element, part: _Part) -> None:
    for details in item.findall("staff-details"):
        part.capo = min(12, max(0, int(_number(details, "capo", part.capo))))
        for tuning in details.findall("staff-tuning"):
            step = tuning.findtext("tuning-step") or ""
            if step in STEPS and (tuning.get("line") or "").isdecimal():
                octave, alter = _number(tuning, "tuning-octave", 4), _number(tuning, "tuning-alter")
                part.opens[int(tuning.get("line") or 1)] = 12 * (octave + 1) + STEPS[step] + alter


def _chord(item: Element) -> str:
    step = item.findtext("root/root-step") or ""
    kind = item.find("kind")
    if step not in STEPS or kind is None:
        return ""
    sign = {1.0: "#", -1.0: "b"}.get(_number(item, "root/root-alter"), "")
    bass = item.findtext("bass/bass-step")
    lower = {1.0: "#", -1.0: "b"}.get(_number(item, "bass/bass-alter"), "")
    name = f"{step}{sign}{KINDS.get((kind.text or '').strip(), kind.get('text') or '')}"
    return f"{name}/{bass}{lower}" if bass in STEPS else name


def _take(item: Element, part: _Part, onset: Fraction, length: Fraction, transpose: float) -> None:
    pitch = item.find("pitch")
    step = (pitch.findtext("step") if pitch is not None else "") or "C"
    midi = 12 * (_number(pitch, "octave", 4) + 1) + STEPS.get(step, 0) + _number(pitch, "alter") + transpose
    staff, ties = item.findtext("staff") or "1", {tie.get("type") for tie in item.findall("tie")}
    if "stop" in ties:
        before = next(
            (n for n in reversed(part.notes) if n.tied_on and n.midi == midi and n.staff == staff
             and abs(n.onset + n.length - onset) < Fraction(1, 64)),
            None,
        )  # fmt: skip
        if before is not None:
            before.length += length
            before.tied_on = "start" in ties
            return
    note = _Heard(onset, length, midi, staff, tied_on="start" in ties)
    _played(item, note)
    part.notes.append(note)


def _played(item: Element, note: _Heard) -> None:
    """String and fret, and how the note is played."""
    if item.findtext("notehead") == "x":
        note.tone = Tone.DEAD
    if item.findtext("play/mute") == "palm" or item.findtext(".//mute") == "palm":
        note.tone = Tone.PALM_MUTE
    for notations in item.findall("notations"):
        for slide in (*notations.findall("slide"), *notations.findall("glissando")):
            if slide.get("type") == "stop":
                note.attack = Attack.SLIDE
        note.vibrato |= notations.find("ornaments/wavy-line") is not None
        note.rings |= any(tied.get("type") == "let-ring" for tied in notations.findall("tied"))
        technical = notations.find("technical")
        if technical is None:
            continue
        if (string := technical.findtext("string")) and string.strip().isdecimal():
            note.string = int(string)
        if (fret := technical.findtext("fret")) and fret.strip().isdecimal():
            note.fret = int(fret)
        for name, attack in (("hammer-on", Attack.HAMMER), ("pull-off", Attack.PULL)):
            if any(join.get("type") == "stop" for join in technical.findall(name)):
                note.attack = attack
        if (finger := (technical.findtext("fingering") or "").strip()) in ("1", "2", "3", "4"):
            note.finger = int(finger)
        for name, stroke in (("down-bow", Stroke.DOWN), ("up-bow", Stroke.UP)):
            if technical.find(name) is not None:
                note.stroke = stroke
        if technical.find("tap") is not None:
            note.attack = Attack.TAP
        harmonic = technical.find("harmonic")
        if harmonic is not None:
            natural = harmonic.find("artificial") is None
            note.tone = Tone.NATURAL_HARMONIC if natural else Tone.SQUEAL_HARMONIC
        for bend in technical.findall("bend"):
            marks = (("pre", "pre-bend"), ("release", "release"), ("bar", "with-bar"))
            kind = next((kind for kind, mark in marks if bend.find(mark) is not None), "up")
            note.bends.append((kind, _number(bend, "bend-alter")))


# --- the score ---
def _score(part: _Part, title: str, unread: list[Unread]) -> Score:
    tuning = _tuning(part)
    beat_map = _beat_map(part)
    staves = {note.staff for note in part.notes if note.fret is not None}
    wanted = [note for note in part.notes if not staves or note.staff in staves]  # notation and tab are one music
    notes: list[Note] = []
    unplaced: list[str] = []
    pitches: dict[str, float] = {}
    for heard in wanted:
        onset_s, end_s = (
            float(beat_map.time_at(np.array([float(at)]))[0])
            for at in (heard.onset - part.pickup, heard.onset - part.pickup + heard.length)
        )
        offset_s = max(onset_s + HELD * (end_s - onset_s), onset_s + 0.03)
        on_neck = (
            heard.string is not None and 1 <= heard.string <= tuning.strings
            and heard.fret is not None and 0 <= heard.fret <= LAST_FRET
        )  # fmt: skip
        note = Note(
            max(0.0, onset_s), offset_s,
            heard.string if on_neck and heard.string else 1, heard.fret if on_neck and heard.fret else 0,
            heard.attack, vibrato=Vibrato(0.15, 5.5, 25.0) if heard.vibrato else None, tone=heard.tone,
            end=End.RINGS if heard.rings else End.STOPS, finger=heard.finger, stroke=heard.stroke,
            starts_at=round(float(heard.onset - part.pickup), 6), locked=on_neck, id=new_id(),
        )  # fmt: skip
        notes.append(_bent(note, heard.bends))
        if not on_neck:
            unplaced.append(note.id)
            pitches[note.id] = heard.midi
    chords = tuple(
        Chord(float(beat_map.time_at(np.array([float(at - part.pickup)]))[0]), name) for at, name in part.chords
    )
    score = Score((), tuning, beat_map, chords=chords, title=title).with_notes(notes)
    try:
        score = placed(score, unplaced, pitches)
    except PlaceError as problem:
        unread.append(Unread(1, 1, str(problem)))
        gone = {key for key, midi in pitches.items() if not 28 <= midi <= 95}
        kept = [note for note in score.notes if note.id not in gone]
        if not kept:
            raise FileError("None of these notes is on a guitar's neck.", "Choose another part.") from problem
        score = placed(score.with_notes(kept), [key for key in unplaced if key not in gone], pitches)
    score = score.with_notes(without_overlaps(score.notes))
    return replace(score, sections=_sections(part, score))


def _sections(part: _Part, score: Score) -> tuple[Section, ...]:
    """From each rehearsal mark to the next, the last to the end."""
    starts_s = [
        max(0.0, float(score.beat_map.time_at(np.array([float(at - part.pickup)]))[0])) for at, _ in part.sections
    ]
    edges_s = [*starts_s, max(note.offset_s for note in score.notes) + 0.05]
    return tuple(
        Section(begin_s, end_s, name)
        for (_, name), begin_s, end_s in zip(part.sections, starts_s, edges_s[1:], strict=True)
        if end_s > begin_s
    )


def _tuning(part: _Part) -> Tuning:
    lines = sorted(part.opens)
    if 4 <= len(lines) <= 8:
        return Tuning(tuple(part.opens[line] for line in reversed(lines)), part.capo)
    return Tuning(STANDARD.open_midi, part.capo)


def _beat_map(part: _Part) -> BeatMap:
    """Beats at the written tempi, from half a second on; quarters are counted from bar 1."""
    tempi = sorted(part.tempi, key=lambda row: row[0]) or [(Fraction(0), USUAL_BPM)]
    tempi = [(at if number else Fraction(0), bpm) for number, (at, bpm) in enumerate(tempi)]
    anchors: list[tuple[float, float]] = []
    now_s, before, bpm = LEAD_S, Fraction(0), tempi[0][1]
    for at, next_bpm in tempi:
        now_s += float(at - before) * 60.0 / bpm
        if not anchors or float(at - part.pickup) > anchors[-1][1] + 1e-6:
            anchors.append((now_s, float(at - part.pickup)))
        before, bpm = at, next_bpm
    anchors.append((now_s + 60.0 / bpm * 4, float(before - part.pickup) + 4.0))
    return BeatMap(tuple(anchors), _meter_changes(part), float(part.pickup))


def _meter_changes(part: _Part) -> tuple[MeterChange, ...]:
    changes: list[MeterChange] = []
    bar, at, meter = 1, part.pickup, FOUR_FOUR
    for begins, following in part.meters:
        if changes and begins > at:
            bar += round(float((begins - at) / Fraction(meter.quarters).limit_denominator(1000)))
            at = begins
        if changes and changes[-1].bar >= bar:
            changes[-1] = MeterChange(changes[-1].bar, following)
        else:
            changes.append(MeterChange(bar if changes else 1, following))
        meter = following
    return tuple(changes) or (MeterChange(1, FOUR_FOUR),)


def _bent(note: Note, bends: list[tuple[str, float]]) -> Note:
    """A note bent as its bend elements say, in their order."""
    ups = [abs(size) for kind, size in bends if kind != "release" and size > 0]
    downs = [size for kind, size in bends if kind in ("up", "bar") and size < 0]
    if ups:
        size = min(max(ups), 6.0)
        released = any(kind == "release" for kind, _ in bends)
        prebent = any(kind == "pre" for kind, _ in bends)
        return replace(note, curve=bent_curve(size, note.duration_s, prebent=prebent, released=released))
    if downs:
        return replace(note, curve=bent_curve(max(downs[0], -12.0), note.duration_s, released=True))
    return note
