"""Reading a MIDI file: ours with its strings and curves, or anybody's melody, put where a hand finds it.

Sources: as for writing, see `midi`; a bend's usual range is two semitones (MIDI 1.0, recommended practice RP-018).
"""

import contextlib
import io
from bisect import bisect_right
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import mido
import numpy as np

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
from notcher.core.formats.midi.writing import BAR_1, BEGIN, BEND_MIDDLE, CHANNELS, CHORD, PICKUP, SECTION, TUNING
from notcher.core.hearing.contour import simplified
from notcher.core.score import (
    FLAT,
    FOUR_FOUR,
    LAST_FRET,
    STANDARD,
    BeatMap,
    Chord,
    Meter,
    MeterChange,
    Note,
    Phrase,
    PitchCurve,
    Score,
    Section,
    Tuning,
    new_id,
)
from notcher.core.score.limits import CHORD_CHARS, LAST_S, MOST_PARTS, NAME_CHARS, fitting
from notcher.core.score.pitch_curve import LARGEST_SEMITONES

Clock = Callable[[int], float]
"""From a tick to seconds of the recording."""
DRUMS = 9  # channel 10 counted from 0 (General MIDI 1)
USUAL_RANGE = 2.0  # semitones of bend where none is set (General MIDI 1)
MOST_BYTES = 16 * 2**20  # hours of music; more is no MIDI file
SAME_CENTS = 3.0
"""A curve is told by the fewest points that keep within so many cents of what is written."""
STEP_S, MOST_STEPS = 0.005, 12_000  # as it is written; of one note, a minute
SHORTEST_S = 0.02  # of a phrase
LOWEST, HIGHEST = 28, 95
"""What a guitar's neck may hold, MIDI numbers."""


@dataclass(slots=True)
class _Sounding:
    """A note as it is gathered, times in ticks."""

    begin: int
    end: int
    key: int
    channel: int
    track: int


@dataclass(slots=True)
class _File:
    """What a MIDI file holds. bends: by channel (tick, semitones), in order."""

    notes: list[_Sounding] = field(default_factory=list)
    bends: dict[int, list[tuple[int, float]]] = field(default_factory=dict)
    tempi: list[tuple[int, float]] = field(default_factory=list)  # tick, seconds a quarter
    meters: list[tuple[int, Meter]] = field(default_factory=list)
    markers: list[tuple[int, str]] = field(default_factory=list)
    names: dict[int, str] = field(default_factory=dict)
    sections: list[tuple[int, str]] = field(default_factory=list)
    chords: list[tuple[int, str]] = field(default_factory=list)
    tuning: Tuning = STANDARD
    begin: int = 0
    bar_1: int = 0
    pickup: float = 0.0
    end: int = 0


def read_midi(data: bytes, *, title: str = "", part: str = "") -> ImportResult:
    """Read a MIDI file. part: the name or number (from 1) of the track that is wanted; else all strings of ours, or the
    track with the most notes. Raises: FileError."""
    file = _parsed(data)
    gathered = _gathered(file)
    if not gathered.notes:
        raise FileError("There are no notes in this MIDI file.", "Choose another file.")
    unread: list[Unread] = []
    chosen = _chosen(gathered, part, unread)
    beat_map, at = _beat_map(gathered, max(1, file.ticks_per_beat))
    if at(gathered.end) > LAST_S:
        raise FileError("This MIDI file claims to last for more than an hour.", "Do not trust this file.")
    ours = _is_ours(gathered, chosen)
    name = gathered.names.get(0, "") if ours else gathered.names.get(0, "") or title
    chords = tuple(Chord(max(0.0, at(tick)), fitting(text, CHORD_CHARS)) for tick, text in gathered.chords[:MOST_PARTS])
    score = Score((), gathered.tuning, beat_map, chords=chords, title=fitting((name or title).strip(), NAME_CHARS))
    notes, pitches, unplaced = _notes(gathered, chosen, at, score.tuning, unread, ours=ours)
    score = score.with_notes(notes)
    try:
        score = placed(score, unplaced, pitches)
    except PlaceError as problem:
        raise FileError(f"These notes are on no guitar's neck: {problem}", "Choose another track.") from problem
    score = score.with_notes(without_overlaps(score.notes))
    form = {"phrases": _phrases(gathered, at, score), "sections": _sections(gathered, at, score)}
    score = replace(score, **form)  # type: ignore[arg-type]
    with_notes = sorted({note.track for note in gathered.notes if note.channel != DRUMS})
    parts = () if ours else tuple(gathered.names.get(track) or str(track + 1) for track in with_notes)
    first = min(chosen)
    read = "" if ours else gathered.names.get(first) or str(first + 1)
    return ImportResult(score, tuple(unread[:MOST_UNREAD]), timed=True, parts=parts, part=read)


def _parsed(data: bytes) -> mido.MidiFile:
    if len(data) > MOST_BYTES:
        raise FileError("This MIDI file is of absurd size.", "Do not trust this file.")
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except Exception as problem:  # a damaged file raises many things
        raise FileError("This is no MIDI file, or a damaged one.", "Write it again.") from problem
    if file.type == 2:
        raise FileError("This MIDI file holds several songs.", "Write one of them alone, as format 0 or 1.")
    return file


def _gathered(file: mido.MidiFile) -> _File:
    """Walk all tracks."""
    result = _File()
    for number, track in enumerate(file.tracks):
        reader = _TrackReader(result, number)
        for message in track:
            reader.take(message)
            check_note_count(len(result.notes))
        reader.end()
    return result


class _Range:
    """How far a channel's bends reach, as registered parameter 0 sets it."""

    def __init__(self) -> None:
        self.semitones, self._parameter = USUAL_RANGE, [127, 127]

    def control(self, control: int, value: int) -> None:
        if control in (100, 101):
            self._parameter[control - 100] = value
        elif control == 6 and self._parameter == [0, 0]:
            self.semitones = float(min(max(value, 1), LARGEST_SEMITONES)) + self.semitones % 1
        elif control == 38 and self._parameter == [0, 0]:
            self.semitones = int(self.semitones) + min(value, 99) / 100


@dataclass(slots=True)
class _TrackReader:
    """One track while it is read. now: ticks. sounding: begun and not ended, by channel and key."""

    file: _File
    number: int
    now: int = 0
    sounding: dict[tuple[int, int], int] = field(default_factory=dict)
    spans: dict[int, _Range] = field(default_factory=dict)

    def take(self, message: mido.Message) -> None:
        """Take in one message; what is of no use here is passed over."""
        self.now += max(0, int(message.time))
        reader = READERS.get(message.type)
        if reader is not None:
            reader(self, message)

    def end(self) -> None:
        """The track is over: what was never ended lasts until here."""
        for (channel, key), begun in self.sounding.items():
            self.file.notes.append(_Sounding(begun, max(self.now, begun + 1), key, channel, self.number))
        self.file.end = max(self.file.end, self.now)

    def note(self, message: mido.Message) -> None:
        key = (message.channel, message.note)
        begun = self.sounding.pop(key, None)
        if begun is not None:
            self.file.notes.append(
                _Sounding(begun, max(self.now, begun + 1), message.note, message.channel, self.number)
            )
        if message.type == "note_on" and message.velocity > 0:
            self.sounding[key] = self.now

    def _range(self, message: mido.Message) -> _Range:
        return self.spans.setdefault(message.channel, _Range())

    def bend(self, message: mido.Message) -> None:
        bend = self._range(message).semitones * message.pitch / BEND_MIDDLE
        self.file.bends.setdefault(message.channel, []).append((self.now, bend))

    def control(self, message: mido.Message) -> None:
        self._range(message).control(message.control, message.value)

    def tempo(self, message: mido.Message) -> None:
        if message.tempo > 0:
            self.file.tempi.append((self.now, message.tempo / 1e6))

    def meter(self, message: mido.Message) -> None:
        with contextlib.suppress(ValueError):
            self.file.meters.append((self.now, Meter(message.numerator, message.denominator)))

    def marker(self, message: mido.Message) -> None:
        self.file.markers.append((self.now, message.text))

    def cue(self, message: mido.Message) -> None:
        if message.text == BEGIN:
            self.file.begin = self.now
        elif message.text == BAR_1:
            self.file.bar_1 = self.now
        elif message.text.startswith(PICKUP):
            self.file.pickup = _quarters(message.text.removeprefix(PICKUP))
        elif message.text.startswith(SECTION):
            self.file.sections.append((self.now, message.text.removeprefix(SECTION)))

    def text(self, message: mido.Message) -> None:
        if message.text.startswith(CHORD):
            self.file.chords.append((self.now, message.text.removeprefix(CHORD)))
        elif message.text.startswith(TUNING):
            self.file.tuning = _tuning(message.text.removeprefix(TUNING))

    def name(self, message: mido.Message) -> None:
        self.file.names.setdefault(self.number, message.name)


READERS: dict[str, Callable[[_TrackReader, mido.Message], None]] = {
    "note_on": _TrackReader.note,
    "note_off": _TrackReader.note,
    "pitchwheel": _TrackReader.bend,
    "control_change": _TrackReader.control,
    "set_tempo": _TrackReader.tempo,
    "time_signature": _TrackReader.meter,
    "marker": _TrackReader.marker,
    "cue_marker": _TrackReader.cue,
    "text": _TrackReader.text,
    "track_name": _TrackReader.name,
}
"""What takes in which kind of message."""


def _quarters(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        return 0.0


def _tuning(text: str) -> Tuning:
    """A tuning as ours is told; the standard one for what is none."""
    try:
        opens, capo, cents = text.split("; ")
        midi = tuple(float(word) for word in opens.split())
        return Tuning(midi, int(capo.removeprefix("capo ")), float(cents.removeprefix("cents ")))
    except ValueError:
        return STANDARD


def _chosen(file: _File, part: str, unread: list[Unread]) -> set[int]:
    """The tracks that are read."""
    counts = Counter(note.track for note in file.notes if note.channel != DRUMS)
    if part:
        named = [track for track in counts if part in (file.names.get(track), str(track + 1))]
        if not named:
            there = ", ".join(file.names.get(track) or str(track + 1) for track in sorted(counts))
            raise FileError(f"There is no track {part!r} with notes.", f"There are {there}.")
        return set(named)
    strings = {track for track in counts if file.names.get(track, "").startswith("string ")}
    if strings:
        return strings
    if not counts:
        raise FileError("There are only drums in this MIDI file.", "Choose another file.")
    (best, _), *others = counts.most_common()
    if others:
        name = file.names.get(best) or str(best + 1)
        unread.append(Unread(1, 1, f"only the track {name!r} is read of {len(counts)} with notes"))
    return {best}


def _is_ours(file: _File, chosen: set[int]) -> bool:
    """Whether every track that is read is a string of ours."""
    return all(file.names.get(track, "").startswith("string ") for track in chosen)


def _beat_map(file: _File, per_quarter: int) -> tuple[BeatMap, Clock]:
    """The beats as the file's tempi put them, and what turns a tick into seconds."""
    tempi = dict(sorted(file.tempi)) or {0: 0.5}
    if 0 not in tempi:
        tempi = {0: 0.5, **tempi}
    rows: list[tuple[int, float, float]] = []  # tick, seconds there, seconds a quarter
    for tick, length in sorted(tempi.items()):
        if rows:
            before, at_s, pace = rows[-1]
            rows.append((tick, at_s + (tick - before) / per_quarter * pace, length))
        else:
            rows.append((tick, 0.0, length))
    ticks = np.array([row[0] for row in rows], dtype=np.float64)

    def seconds(tick: int) -> float:
        row = rows[max(0, int(np.searchsorted(ticks, tick, side="right")) - 1)]
        return row[1] + (tick - row[0]) / per_quarter * row[2]

    begin_s = seconds(file.begin)

    def since(tick: int) -> float:
        return seconds(tick) - begin_s

    def quarter(tick: int) -> float:
        return (tick - file.bar_1) / per_quarter

    meter = file.meters[0][1] if file.meters and file.meters[0][0] == 0 else FOUR_FOUR
    last, _, pace = rows[-1]
    anchors = [(since(tick), quarter(tick)) for tick, _, _ in rows]
    anchors.append((since(last) + 4 * pace, quarter(last) + 4))
    pickup = file.pickup if 0 <= file.pickup < meter.quarters else 0.0
    try:
        beat_map = BeatMap(tuple(anchors), (MeterChange(1, meter),), pickup)
    except ValueError as problem:
        raise FileError(f"The tempo of this MIDI file is none: {problem}.", "Write it again with another.") from problem
    for tick, change in file.meters:
        bar = beat_map.bar_at(quarter(tick))
        if tick > 0 and bar > beat_map.meters[-1].bar:
            beat_map = beat_map.with_meter(bar, change)
    return beat_map, since


def _notes(
    file: _File, chosen: set[int], at: Clock, tuning: Tuning, unread: list[Unread], *, ours: bool
) -> tuple[list[Note], dict[str, float], list[str]]:
    """The notes that are read; of those that no string is known of the pitches, by id."""
    notes: list[Note] = []
    pitches: dict[str, float] = {}
    unplaced: list[str] = []
    lost = 0
    for sounding in sorted(file.notes, key=lambda note: (note.begin, note.key)):
        if sounding.track not in chosen or sounding.channel == DRUMS:
            continue
        begin_s, end_s = at(sounding.begin), at(sounding.end)
        if begin_s < 0 or not LOWEST <= sounding.key <= HIGHEST:
            lost += 1
            continue
        string = CHANNELS.index(sounding.channel) + 1 if ours and sounding.channel in CHANNELS else 0
        fret = sounding.key - round(tuning.open_midi[string - 1]) if 1 <= string <= tuning.strings else -1
        on_neck = 0 <= fret <= LAST_FRET
        curve = _curve(file.bends.get(sounding.channel, []), sounding, at, tuning.offset_cents / 100)
        note = Note(begin_s, max(end_s, begin_s + 0.01), string if on_neck else 1, fret if on_neck else 0, curve=curve,
                    locked=on_neck, id=new_id())  # fmt: skip
        notes.append(note)
        if not on_neck:
            unplaced.append(note.id)
            pitches[note.id] = float(sounding.key)
    if lost:
        unread.append(Unread(1, 1, f"{lost} notes that are on no guitar's neck"))
    if not notes:
        raise FileError("None of these notes is on a guitar's neck.", "Choose another track.")
    return notes, pitches, unplaced


def _curve(bends: Sequence[tuple[int, float]], note: _Sounding, at: Clock, off: float) -> PitchCurve:
    """How a note's pitch moves, by the fewest points. off: how far the whole neck is from concert pitch, semitones."""
    first = bisect_right(bends, note.begin, key=lambda bend: bend[0])
    level = bends[first - 1][1] if first else 0.0
    rows = [(0.0, level - off)]
    for tick, semitones in bends[first:]:
        if tick >= note.end:
            break
        rows.append((at(tick) - at(note.begin), semitones - off))
    if all(abs(semitones) < SAME_CENTS / 100 for _, semitones in rows):
        return FLAT
    times_s = np.array([time_s for time_s, _ in rows])
    even_s = np.arange(0.0, at(note.end) - at(note.begin), STEP_S)[:MOST_STEPS]
    values = np.array([semitones for _, semitones in rows])[np.searchsorted(times_s, even_s + 1e-6, side="right") - 1]
    indices = simplified(values, SAME_CENTS / 100) if values.size > 1 else [0]
    limited = np.clip(values[indices], -LARGEST_SEMITONES, LARGEST_SEMITONES)
    return PitchCurve(tuple(zip(even_s[indices].tolist(), limited.tolist(), strict=True)))


def _phrases(file: _File, at: Clock, score: Score) -> tuple[Phrase, ...]:
    """Markers as phrases: from each to the next."""
    spans = _spans([(at(tick), text) for tick, text in sorted(file.markers)], score)
    return tuple(Phrase(*span) for span in spans)


def _sections(file: _File, at: Clock, score: Score) -> tuple[Section, ...]:
    spans = _spans([(at(tick), text) for tick, text in sorted(file.sections)], score)
    return tuple(Section(*span) for span in spans)


def _spans(marks: Sequence[tuple[float, str]], score: Score) -> list[tuple[float, float, str]]:
    """From each mark to the next, the last to the end."""
    marks = [(time_s, text.strip()) for time_s, text in marks if time_s >= 0]
    edges = [*(time_s for time_s, _ in marks), max(note.offset_s for note in score.notes) + 0.05]
    return [
        (begin_s, end_s, fitting(name, NAME_CHARS))
        for (begin_s, name), end_s in zip(marks, edges[1:], strict=True)
        if end_s - begin_s > SHORTEST_S
    ][:MOST_PARTS]
