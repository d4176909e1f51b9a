"""Reading MusicXML, of any version, plain or compressed: one part's notes with their times, strings and frets.

Source: W3C Music Notation Community Group, "MusicXML 4.0", 2021. Written times are kept as beats; where a note carries
no string and fret it is placed. Entities are refused, so that no small file can unfold into a huge one.
"""

import io
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from xml.etree.ElementTree import Element, TreeBuilder
from xml.parsers import expat

import numpy as np

from notcher.core.formats.files.archive import Archive
from notcher.core.formats.files.atomic import FileError
from notcher.core.formats.import_result import (
    MOST_UNREAD,
    ImportResult,
    PlaceError,
    Unread,
    check_note_count,
    placed,
    without_overlaps,
)
from notcher.core.formats.musicxml.kinds import CENTS, KEY, PHRASE
from notcher.core.formats.musicxml.part import USUAL_BPM, Lined, Part, ReadNote, part_of
from notcher.core.score import (
    EDGE_S,
    FOUR_FOUR,
    HARMONIC_TONES,
    LAST_FRET,
    STANDARD,
    BeatMap,
    Chord,
    Key,
    MeterChange,
    Note,
    Phrase,
    Score,
    Section,
    Swing,
    Tuning,
    Vibrato,
    bent_curve,
    new_id,
)
from notcher.core.score.limits import CHORD_CHARS, NAME_CHARS, fitting
from notcher.core.score.rhythm import played_late_s

MOST_BYTES = 48 * 2**20  # an orchestra's score has less
MOST_ELEMENTS = 2_000_000
"""A score of 100,000 notes has a million and a half; each takes a hundred times the room that it takes in the file."""
LEAD_S = 0.5  # of silence before the first bar, so that its first attack is whole
SHORTEST_S = 0.03  # a note of the file that has no length keeps this
HELD = 0.95  # of its value that a note is held


def read_musicxml(data: bytes, *, title: str = "", part: str = "") -> ImportResult:
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
    parts = {element.get("id", ""): part_of(element, unread) for element in root.findall("part")}
    chosen = _chosen(parts, names, part)
    text = root.findtext("work/work-title") or root.findtext("movement-title") or title
    score = _of_our_own(_score(parts[chosen], text.strip(), unread), root)
    playing = tuple(names.get(name) or name for name, one_part in parts.items() if one_part.notes)
    if len(playing) > 1:
        unread.append(Unread(1, 1, f"only the part {names.get(chosen) or chosen!r} is read of several"))
    return ImportResult(score, tuple(unread[:MOST_UNREAD]), timed=True, parts=playing, part=names.get(chosen) or chosen)


# --- the file ---
def _unpacked(data: bytes) -> bytes:
    """The document itself; of a compressed one the file that its container names."""
    if not data.startswith(b"PK"):
        return data
    try:
        with Archive(io.BytesIO(data), "this compressed MusicXML") as archive:
            container = _root(_member(archive, "META-INF/container.xml"))
            path = next((e.get("full-path") for e in container.iter() if e.tag.endswith("rootfile")), None)
            return _member(archive, path or "")
    except OSError as problem:
        raise FileError("This compressed MusicXML is damaged.", "Write it again, uncompressed.") from problem


def _member(archive: Archive, name: str) -> bytes:
    data = archive.read(name, MOST_BYTES)
    if data is None:
        raise FileError("This compressed MusicXML holds no score.", "Write it again, uncompressed.")
    return data


def _root(data: bytes) -> Element:
    """Parse a document, with the place of each element; entities are refused."""
    if len(data) > MOST_BYTES:
        raise FileError("This MusicXML is of absurd size.", "Do not trust this file.")
    parser = expat.ParserCreate()
    builder = TreeBuilder(element_factory=Lined)

    count = 0

    def start(tag: str, attributes: dict[str, str]) -> None:
        nonlocal count
        count += 1
        if count > MOST_ELEMENTS:
            raise FileError("This MusicXML holds too many things to be a solo.", "Do not trust this file.")
        element = builder.start(tag, attributes)
        if isinstance(element, Lined):
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


def _chosen(parts: dict[str, Part], names: dict[str, str], wanted: str) -> str:
    with_notes = [name for name, part in parts.items() if part.notes]
    if not with_notes:
        raise FileError("There are no notes in this MusicXML.", "Choose another file.")
    if wanted:
        result = next((name for name in parts if wanted in (name, names.get(name))), None)
        if result is None:
            raise FileError(f"There is no part {wanted!r}.", f"There are {', '.join(names.values())}.")
        return result
    return next((n for n in with_notes if any(note.fret is not None for note in parts[n].notes)), with_notes[0])


# --- the score ---
def _score(part: Part, title: str, unread: list[Unread]) -> Score:
    tuning = _tuning(part)
    beat_map = _beat_map(part)
    staves = {note.staff for note in part.notes if note.fret is not None}
    wanted = [note for note in part.notes if not staves or note.staff in staves]  # notation and tab are one music
    check_note_count(len(wanted))
    notes, pitches = _notes(wanted, part, beat_map, tuning)
    chords = tuple(
        Chord(beat_map.time(float(at - part.before)), fitting(name, CHORD_CHARS)) for at, name in part.chords
    )
    score = Score((), tuning, beat_map, chords=chords, title=fitting(title, NAME_CHARS)).with_notes(notes)
    try:
        score = placed(score, list(pitches), pitches)
    except PlaceError as problem:
        unread.append(Unread(1, 1, str(problem)))
        outside = {key for key, midi in pitches.items() if not 28 <= midi <= 95}
        playable = [note for note in score.notes if note.id not in outside]
        if not playable:
            raise FileError("None of these notes is on a guitar's neck.", "Choose another part.") from problem
        score = placed(score.with_notes(playable), [key for key in pitches if key not in outside], pitches)
    score = _swung(score.with_notes(without_overlaps(score.notes)))
    return replace(score, sections=_sections(part, score))


def _notes(
    wanted: Sequence[ReadNote], part: Part, beat_map: BeatMap, tuning: Tuning
) -> tuple[list[Note], dict[str, float]]:
    """The notes at their times; of those that carry no string and fret the pitches, by their ids."""
    notes: list[Note] = []
    pitches: dict[str, float] = {}
    begins, ends = (
        beat_map.time_at(np.array([float(at - part.before) for at in ats])).tolist()
        for ats in ([note.onset for note in wanted], [note.onset + note.length for note in wanted])
    )
    for sounding, onset_s, end_s in zip(wanted, begins, ends, strict=True):
        offset_s = max(onset_s + HELD * (end_s - onset_s), onset_s + SHORTEST_S)
        fret = _from_nut(sounding, tuning)
        on_neck = fret is not None
        note = Note(
            max(0.0, onset_s), offset_s,
            sounding.string if on_neck and sounding.string else 1, fret or 0,
            sounding.attack, vibrato=Vibrato(0.15, 5.5, 25.0) if sounding.vibrato else None, tone=sounding.tone,
            muted=sounding.muted and sounding.tone in HARMONIC_TONES,
            end=sounding.end, raked=sounding.raked, slid_in=sounding.slid_in, finger=sounding.finger,
            stroke=sounding.stroke,
            starts_at=None if sounding.grace else round(float(sounding.onset - part.before), 6), garnish=sounding.grace,
            locked=on_neck, id=new_id(),
        )  # fmt: skip
        notes.append(_bent(note, sounding.bends))
        if not on_neck:
            pitches[note.id] = sounding.midi
    return notes, pitches


def _of_our_own(score: Score, root: Element) -> Score:
    """What we write into miscellaneous fields; what is none of ours there is left alone."""
    phrases: list[Phrase] = []
    for item in root.iterfind("identification/miscellaneous/miscellaneous-field"):
        name, text = item.get("name"), (item.text or "").strip()
        try:
            if name == CENTS:
                score = replace(score, tuning=replace(score.tuning, offset_cents=float(text)))
            elif name == KEY:
                tonic, _, scale = text.partition(" ")
                score = replace(score, key=Key(tonic, scale))
            elif name == PHRASE:
                begin, end, *words = text.split(" ", 2)
                begin_s, end_s = (score.beat_map.time(float(at)) for at in (begin, end))
                phrases.append(Phrase(max(0.0, begin_s), end_s, " ".join(words)[:200]))
        except ValueError:
            continue
    phrases.sort(key=lambda phrase: phrase.start_s)
    apart = [b for a, b in pairwise([None, *phrases]) if b is not None and (a is None or a.end_s <= b.start_s + EDGE_S)]
    return replace(score, phrases=tuple(apart))


def _swung(score: Score) -> Score:
    """Notes of a swung stretch where the swing puts them, not where they are written."""
    if not score.beat_map.swings:
        return score
    late_s = played_late_s(score).tolist()
    moved = (
        replace(note, onset_s=min(max(0.0, note.onset_s - by_s), note.offset_s - SHORTEST_S))
        for note, by_s in zip(score.notes, late_s, strict=True)
    )
    return score.with_notes(without_overlaps(list(moved)))


def _sections(part: Part, score: Score) -> tuple[Section, ...]:
    """From each rehearsal mark to the next, the last to the end."""
    starts_s = [max(0.0, score.beat_map.time(float(at - part.before))) for at, _ in part.sections]
    edges_s = [*starts_s, max(note.offset_s for note in score.notes) + 0.05]
    return tuple(
        Section(begin_s, end_s, name)
        for (_, name), begin_s, end_s in zip(part.sections, starts_s, edges_s[1:], strict=True)
        if end_s > begin_s
    )


def _from_nut(sounding: ReadNote, tuning: Tuning) -> int | None:
    """The fret of a note, counted from the nut; None where it has no place on this neck.

    A capo changes the open strings (MusicXML 4.0, element capo), so frets are counted from it; where only a count from
    the nut fits the written pitch, that was meant.
    """
    if sounding.string is None or not 1 <= sounding.string <= tuning.strings or sounding.fret is None:
        return None
    counted = [fret for fret in (sounding.fret + tuning.capo, sounding.fret) if 0 <= fret <= LAST_FRET]
    exact = (fret for fret in counted if abs(tuning.midi(sounding.string, fret) - sounding.midi) < 0.5)
    return next(exact, counted[0] if counted else None)


def _tuning(part: Part) -> Tuning:
    lines = sorted(part.opens)
    if 4 <= len(lines) <= 8:
        return Tuning(tuple(part.opens[line] for line in reversed(lines)), part.capo)
    return Tuning(STANDARD.open_midi, part.capo)


def _beat_map(part: Part) -> BeatMap:
    """Beats at the written tempi, from half a second on; quarters are counted from bar 1."""
    tempi = sorted(part.tempi, key=lambda row: row[0]) or [(Fraction(0), USUAL_BPM)]
    tempi = [(at if number else Fraction(0), bpm) for number, (at, bpm) in enumerate(tempi)]
    anchors: list[tuple[float, float]] = []
    now_s, before, bpm = LEAD_S, Fraction(0), tempi[0][1]
    for at, next_bpm in tempi:
        now_s += float(at - before) * 60.0 / bpm
        if not anchors or float(at - part.before) > anchors[-1][1] + 1e-6:
            anchors.append((now_s, float(at - part.before)))
        before, bpm = at, next_bpm
    anchors.append((now_s + 60.0 / bpm * 4, float(before - part.before) + 4.0))
    meters = _meter_changes(part)
    pickup = float(part.before) if part.before < meters[0].meter.quarters else 0.0
    return BeatMap(tuple(anchors), meters, pickup, _swings(part))


def _swings(part: Part) -> tuple[Swing, ...]:
    """From each mark to the next, the last to the end of the music."""
    end = max((note.onset + note.length for note in part.notes), default=Fraction(0))
    marks = sorted(part.swings, key=lambda mark: mark[0])
    return tuple(
        Swing(float(begin - part.before), float(until - part.before), share)
        for (begin, share), (until, _) in pairwise([*marks, (end, 0.5)])
        if share > 0.5 and begin < until
    )


def _meter_changes(part: Part) -> tuple[MeterChange, ...]:
    changes: list[MeterChange] = []
    bar, at, meter = 1, part.before, FOUR_FOUR
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
