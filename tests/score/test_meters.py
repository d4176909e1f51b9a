"""Meters, pickups and swing: how bars are felt, counted, clicked, drawn and written; music21 reads along."""

import subprocess
import sys
import textwrap
from dataclasses import replace
from itertools import pairwise

import music21
import numpy as np
import pytest

from notcher.core.formats import musicxml_text
from notcher.core.mixing.loop import counted_in
from notcher.core.parsing import BeatError, CountError, beat_map_from_text, count_from_text
from notcher.core.score import BeatMap, Meter, MeterChange, Note, Score, Swing, meter_from_text
from notcher.core.score.edits import with_beat_map, with_count, with_division, with_meter
from notcher.core.score.rhythm import DIVISIONS, TICKS, played_late_s, written_times
from notcher.core.synthesis import backing
from notcher.core.words import bar_words, count_word

RATE = 8_000


# G. Read, "Music Notation", 2nd ed. 1979, ch. 10: three written beats are one felt beat in 6/8, 9/8 and 12/8
@pytest.mark.outside(
    what="how a meter is felt",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="counts of beats",
    kind="library",
)
@pytest.mark.parametrize("text", ["4/4", "3/4", "2/4", "5/4", "2/2", "3/2", "6/8", "9/8", "12/8"])
def test_felt_beats_are_those_of_an_independent_library(text: str) -> None:
    other, meter = music21.meter.TimeSignature(text), meter_from_text(text)
    assert meter.felt == other.beatCount
    assert meter.beat_quarters == other.beatDuration.quarterLength
    assert meter.quarters == other.barDuration.quarterLength


# the counted eighth in 5/8 and 7/8: common practice, no source
@pytest.mark.parametrize(("text", "felt"), [("5/8", 5), ("7/8", 7)])
def test_odd_eighths_are_felt_one_by_one(text: str, felt: int) -> None:
    meter = meter_from_text(text)
    assert (meter.felt, meter.beat_quarters) == (felt, 0.5)


def test_twelve_eighths_at_ninety_quarters_are_two_bars_of_six() -> None:
    """60 dotted quarters a minute are 90 quarters: an eighth lasts a third of a second."""
    beat_map = BeatMap.steady(60, 0.0, Meter(6, 8))
    score = Score(tuple(Note(i / 3, i / 3 + 0.3, 1, 5) for i in range(12)), beat_map=beat_map)
    times = written_times(score)
    assert [count_word(time) for time in times] == ["1", "&", "a", "2", "&", "a"] * 2
    assert [time.bar for time in times] == [1] * 6 + [2] * 6
    read = music21.converter.parseData(musicxml_text(score), format="musicxml").parts[0]  # the staff of notes
    measures = list(read.recurse().getElementsByClass("Measure"))
    assert [len(measure.notes) for measure in measures] == [6, 6]
    assert {note.duration.quarterLength for note in read.recurse().notes} == {0.5}
    # "per-minute" belongs to the beat unit, "sound tempo" to quarters: MusicXML 4.0
    mark = next(iter(read.recurse().getElementsByClass("MetronomeMark")))
    assert (mark.referent.quarterLength, mark.number) == (1.5, 60)
    assert mark.getQuarterBPM() == 90


CASES = [
    # meter, felt beats a minute, pickup in quarters, step in quarters, counts of the pickup and of the first bar
    ("6/8", 60, 0.5, 0.5, ["a"], ["1", "&", "a", "2", "&", "a"]),
    ("12/8", 70, 1.5, 0.5, ["4", "&", "a"], ["1", "&", "a", "2", "&", "a", "3", "&", "a", "4", "&", "a"]),
    ("5/4", 120, 1.0, 0.5, ["5", "&"], ["1", "&", "2", "&", "3", "&", "4", "&", "5", "&"]),
    ("7/8", 200, 1.0, 0.5, ["6", "7"], ["1", "2", "3", "4", "5", "6", "7"]),
]


def solo(text: str, tempo: float, pickup: float, step: float) -> Score:
    """A pickup and three bars of even notes, played as written."""
    beat_map = beat_map_from_text(f"{text} {tempo:g} {pickup:g}")
    quarters = np.arange(-pickup, 3 * beat_map.meter.quarters - 1e-9, step)
    onsets, ends = beat_map.time_at(quarters), beat_map.time_at(quarters + step)
    notes = (Note(float(a), float(b), 2, 12) for a, b in zip(onsets, ends, strict=True))
    return Score(beat_map=beat_map).with_notes(notes)


@pytest.mark.parametrize(("text", "tempo", "pickup", "step", "before", "bar"), CASES)
def test_a_meter_with_a_pickup_is_counted_and_written(
    text: str, tempo: float, pickup: float, step: float, before: list[str], bar: list[str]
) -> None:
    score = solo(text, tempo, pickup, step)
    times = written_times(score)
    assert score.notes[0].onset_s == pytest.approx(0, abs=1e-9), "the pickup begins the solo"
    assert [count_word(time) for time in times] == before + 3 * bar
    assert [time.bar for time in times] == [0] * len(before) + [n for n in (1, 2, 3) for _ in bar]
    read = music21.converter.parseData(musicxml_text(score), format="musicxml").parts[0]  # the staff of notes
    measures = list(read.recurse().getElementsByClass("Measure"))
    assert [measure.number for measure in measures] == [0, 1, 2, 3]
    assert [measure.duration.quarterLength for measure in measures] == [pickup] + 3 * [score.beat_map.meter.quarters]
    assert measures[0].timeSignature.ratioString == text
    offsets = [note.getOffsetInHierarchy(read) for note in read.recurse().notes]
    assert offsets == pytest.approx(np.arange(len(times)) * step)
    mark = next(iter(read.recurse().getElementsByClass("MetronomeMark")))
    assert mark.number == tempo


@pytest.mark.parametrize(("text", "tempo", "pickup", "step", "before", "bar"), CASES)
def test_a_meter_with_a_pickup_is_clicked(
    text: str, tempo: float, pickup: float, step: float, before: list[str], bar: list[str]
) -> None:
    """One click a felt beat, the higher one on each bar's first: read off the sound by its loudest moments."""
    score = solo(text, tempo, pickup, step)
    beat_map, beat_s = score.beat_map, 60 / tempo
    length_s = score.notes[-1].offset_s
    sound = backing(score, duration_s=length_s, sample_rate=RATE, parts=("click",)).samples[:, 0]
    first_s = beat_map.first_beat_s
    assert first_s is not None
    due = [first_s + n * beat_s for n in range(-10, 40) if -1e-6 <= first_s + n * beat_s < length_s - 0.05]
    clicks, tones = clicks_in(sound)
    assert clicks == pytest.approx(due, abs=0.004)
    firsts = [((at - first_s) / beat_s + 0.01) % beat_map.meter.felt < 0.02 for at in due]
    assert [tone > 1350 for tone in tones] == firsts
    # the count-in: as many beats as a bar has felt ones, ending where the stretch begins
    clicks, tones = clicks_in(counted_in(beat_map, first_s, 1.0, RATE)[:, 0])
    assert clicks == pytest.approx(np.arange(beat_map.meter.felt) * beat_s, abs=0.004)
    assert [tone > 1350 for tone in tones] == [True] + [False] * (beat_map.meter.felt - 1)


def clicks_in(sound: np.ndarray) -> tuple[list[float], list[float]]:
    """Where a sound leaves silence, in seconds, and the pitch of what begins there, in hertz."""
    loud = np.abs(sound) > 0.01
    starts = np.flatnonzero(loud & ~np.concatenate([[False] * 200, loud])[: loud.size] & (np.arange(loud.size) >= 0))
    begins = [at for at in starts if not loud[max(0, at - 200) : at].any()]
    hertz = []
    for at in begins:
        spectrum = np.abs(np.fft.rfft(sound[at : at + 200] * np.hanning(sound[at : at + 200].size), 8192))
        hertz.append(float(np.argmax(spectrum)) * RATE / 8192)
    return [at / RATE for at in begins], hertz


DRAWN = """
    import os
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtGui import QGuiApplication, QImage, QPainter
    from notcher.core.score import Score
    from notcher.core.parsing import beat_map_from_text
    from notcher.painting.tab_frame import TabFrame
    from notcher.painting.tab_picture import TabContent, draw_tab
    from notcher.painting.theme import PAPER, load_fonts

    app = QGuiApplication([])
    load_fonts()
    for said in ("6/8 60 0.5", "12/8 70 1.5", "5/4 120 1", "7/8 200 1"):
        image = QImage(1600, 420, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        frame = TabFrame(1600, 420, px_per_s=200.0)
        draw_tab(painter, frame, TabContent(Score(beat_map=beat_map_from_text(said))), PAPER)
        painter.end()
        row = round(frame.height) - 4
        shades = [image.pixelColor(x, row).lightness() for x in range(1600)]
        ground = max(set(shades), key=shades.count)
        lines = [(x, ground - shade) for x, shade in enumerate(shades) if shade < ground - 3 and x > frame.left]
        print(said, "|", *(f"{frame.time(x):.3f}:{dark}" for x, dark in lines))
"""


@pytest.mark.slow
def test_bars_and_beats_are_drawn_where_they_are_felt() -> None:
    done = subprocess.run(
        [sys.executable, "-c", textwrap.dedent(DRAWN)], capture_output=True, text=True, timeout=60, check=True
    )
    for line in done.stdout.splitlines():
        said, _, drawn = line.partition("|")
        text, tempo, pickup = said.split()
        meter, beat_s = meter_from_text(text), 60 / float(tempo)
        first_s = float(pickup) / meter.beat_quarters * beat_s
        marks = [tuple(map(float, mark.split(":"))) for mark in drawn.split()]
        due = [first_s + n * beat_s for n in range(-10, 60)]
        seen_s = marks[-1][0]
        due = [at for at in due if marks[0][0] - 0.01 <= at <= seen_s + 0.01]
        assert [at for at, _ in marks] == pytest.approx(due, abs=0.006), said
        darkest = max(dark for _, dark in marks)
        bars = [abs((at - first_s) / beat_s / meter.felt % 1 - 0.5) > 0.49 for at in due]
        assert [dark > 0.7 * darkest for _, dark in marks] == bars, said


def test_one_bar_of_another_meter() -> None:
    beat_map = BeatMap.steady(60, 0.0).with_meter(2, Meter(2, 4), until=3)
    assert [(change.bar, str(change.meter)) for change in beat_map.meters] == [(1, "4/4"), (2, "2/4"), (3, "4/4")]
    assert [beat_map.bar_at(quarter) for quarter in (-0.5, 0, 3.9, 4, 5.9, 6, 10)] == [0, 1, 1, 2, 2, 3, 4]
    score = Score(tuple(Note(float(i), i + 0.9, 1, 5) for i in range(10)), beat_map=beat_map)
    assert [count_word(time) for time in written_times(score)] == list("1234") + list("12") + list("1234")
    read = music21.converter.parseData(musicxml_text(score), format="musicxml").parts[0]  # the staff of notes
    measures = list(read.recurse().getElementsByClass("Measure"))
    assert [len(measure.notes) for measure in measures] == [4, 2, 4]
    assert [time.ratioString for time in read.recurse().getElementsByClass("TimeSignature")] == ["4/4", "2/4", "4/4"]
    # back to one meter: nothing of the change stays
    assert beat_map.with_meter(2, Meter(4, 4), until=3) == BeatMap.steady(60, 0.0)


@pytest.mark.outside(
    what="felt beats over a change of meter",
    source="G. Read, Music Notation, 2nd ed. 1979, ch. 10",
    tolerance="exact",
    why="beats",
    kind="derivation",
)
def test_felt_beats_run_on_over_a_change_of_beat() -> None:
    """From 4/4 to 6/8 at bar 2: beats 0..3 are quarters, then dotted quarters (Read, ch. 10)."""
    beat_map = BeatMap.steady(60, 0.0).with_meter(2, Meter(6, 8))
    felt = np.array([-1.0, 0.0, 3.0, 4.0, 5.0, 6.5])
    quarters = beat_map.quarter_of_felt(felt)
    assert quarters == pytest.approx([-1, 0, 3, 4, 5.5, 7.75])
    assert beat_map.felt_at(quarters) == pytest.approx(felt)
    bars, beats = beat_map.bars_and_beats(np.array([-1.0, 0.0, 3.0, 4.0, 5.0, 6.0]))
    assert list(zip(bars.tolist(), beats.tolist(), strict=True)) == [(0, 4), (1, 1), (1, 4), (2, 1), (2, 2), (3, 1)]
    assert beat_map.tempo_at(6.0) == pytest.approx(40), "60 quarters a minute are 40 dotted ones"


@pytest.mark.parametrize(
    "wrong",
    [
        {"meters": ()},
        {"meters": (MeterChange(2, Meter()),)},
        {"meters": (MeterChange(1, Meter()), MeterChange(1, Meter(3, 4)))},
        {"pickup": 4.0},
        {"pickup": -1.0},
        {"swings": (Swing(0, 4), Swing(3, 8))},
        {"anchors": ((0.0, 0.0), (float("inf"), 1.0))},
        {"anchors": ((0.0, 0.0), (1.0, 1e300))},
        {"anchors": ((0.0, 0.0), (1.0, 101.0))},
        {"anchors": ((0.0, 0.0), (900_000.0, 1.0))},
        {"anchors": ((-1e7, 0.0), (-1e7 + 1, 1.0))},
    ],
)
def test_impossible_beat_maps_are_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(ValueError):
        replace(BeatMap(), **wrong)


@pytest.mark.parametrize("text", ["4", "4/3", "0/4", "x/4", "99/4", ""])
def test_what_is_no_meter_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="no such meter"):
        meter_from_text(text)


# --- swing ---
# two thirds and a third of the beat: common practice, no source
def test_a_swung_stretch_is_written_in_halves_and_nobody_is_late() -> None:
    onsets = [beat + part for beat in range(4) for part in (0.0, 2 / 3)]
    straight = Score(tuple(Note(a, b, 1, 5) for a, b in pairwise([*onsets, 4.0])), beat_map=BeatMap.steady(60, 0.0))
    swung = replace(straight, beat_map=replace(straight.beat_map, swings=(Swing(0.0, 4.0),)))
    assert [time.onset for time in written_times(swung)] == [TICKS * n // 2 for n in range(8)]
    assert [count_word(time) for time in written_times(swung)] == ["1", "&", "2", "&", "3", "&", "4", "&"]
    assert np.abs(played_late_s(swung)).max() < 1e-6
    xml = musicxml_text(swung)
    read = music21.converter.parseData(xml, format="musicxml")
    assert {note.duration.quarterLength for note in read.recurse().notes} == {0.5}
    assert "<first>2</first>" in xml
    assert "<second>1</second>" in xml
    # triplets in a swung stretch stay triplets
    three = replace(swung, notes=()).with_notes(Note(t / 3, t / 3 + 0.3, 1, 5) for t in range(12))
    assert [count_word(time) for time in written_times(three)][:3] == ["1", "trip", "let"]


# --- what the instructor says ---
def test_a_said_division_is_obeyed_and_kept() -> None:
    """Three notes played as fourths: an instructor who says triplets gets them."""
    onsets = [0.0, 0.27, 0.55, 1.0]
    score = Score(tuple(Note(t, t + 0.2, 1, 5) for t in onsets), beat_map=BeatMap.steady(60, 0.0))
    assert [count_word(time) for time in written_times(score)][:3] == ["1", "e", "&"]
    said = with_division(score, [score.notes[1].id], "thirds")
    assert [count_word(time) for time in written_times(said)] == ["1", "trip", "let", "2"]
    again = with_division(said, [said.notes[1].id], "")
    assert [count_word(time) for time in written_times(again)][:3] == [
        "1",
        "e",
        "&",
    ]
    with pytest.raises(ValueError, match="not divided into twelfths"):
        with_division(score, [score.notes[0].id], "twelfths")
    again = said.with_note(said.notes[1].id, fret=7)
    assert [count_word(time) for time in written_times(again)] == ["1", "trip", "let", "2"]


def test_a_said_count_is_obeyed_and_others_give_way() -> None:
    onsets = [0.0, 1.3, 1.45, 2.0]
    score = Score(tuple(Note(t, t + 0.1, 1, 5) for t in onsets), beat_map=BeatMap.steady(60, 0.0))
    beat, part, grid = count_from_text("2 &", Meter())
    assert (beat, part, grid) == (2, DIVISIONS // 2, "halves")
    said = with_count(score, score.notes[1].id, beat, part)
    times = written_times(said)
    assert times[1].onset == TICKS * 3 // 2
    assert [time.onset for time in times] == sorted(time.onset for time in times)
    assert played_late_s(said)[1] == pytest.approx(-0.2), "how it was played stays known"
    with pytest.raises(ValueError, match="no beat 5"):
        with_count(score, score.notes[0].id, 5, 0)


@pytest.mark.parametrize(
    ("said", "meter", "heard"),
    [
        ("3", "4/4", (3, 0)),
        ("2 trip", "4/4", (2, DIVISIONS // 3)),
        ("1 a", "4/4", (1, DIVISIONS * 3 // 4)),
        ("2 a", "6/8", (2, DIVISIONS * 2 // 3)),
        ("7", "7/8", (7, 0)),
        ("2and", "4/4", None),
        ("0", "4/4", None),
        ("5", "4/4", None),
        ("1 let", "6/8", None),
        ("", "4/4", None),
    ],
)
def test_counts_are_read_as_they_are_said(said: str, meter: str, heard: tuple[int, int] | None) -> None:
    if heard is None:
        with pytest.raises(CountError, match="is no count in"):
            count_from_text(said, meter_from_text(meter))
    else:
        assert count_from_text(said, meter_from_text(meter))[:2] == heard


@pytest.mark.parametrize("said", ["", "4/4", "4/4 x", "4/4 1", "6/8 60 3", "6/8 60 1 1", "4/4 nan"])
def test_a_beat_that_nobody_can_read_is_refused(said: str) -> None:
    with pytest.raises(BeatError, match="is no beat"):
        beat_map_from_text(said)


# --- another tempo or meter ---
def test_by_hand_notes_keep_their_beats_with_a_recording_their_seconds() -> None:
    score = solo("4/4", 100, 1.0, 0.5)
    before = [time.onset for time in written_times(score)]
    slower = replace(score.beat_map, anchors=((1.2, 0.0), (2.4, 1.0)))
    by_hand = with_beat_map(score, slower, keeps_beats=True)
    assert [time.onset for time in written_times(by_hand)] == before
    assert by_hand.notes[-1].onset_s == pytest.approx(2 * score.notes[-1].onset_s)
    assert [note.id for note in by_hand.notes] == [note.id for note in score.notes]
    heard = with_beat_map(score, slower, keeps_beats=False)
    assert heard.notes == score.notes
    # another meter moves nothing that is written, and keeps the felt beats of what was tapped
    waltz = with_meter(score, 1, Meter(3, 4), keeps_felt=False)
    assert [time.onset for time in written_times(waltz)] == before
    dotted = with_meter(score, 1, Meter(12, 8), keeps_felt=True).beat_map
    assert dotted.tempo_bpm == pytest.approx(100)
    assert dotted.first_beat_s == score.beat_map.first_beat_s


@pytest.mark.parametrize(
    ("bars", "said"),
    [((3,), "bar 3"), ((3, 3), "bar 3"), ((3, 7), "bars 3 to 7"), ((0,), "pickup"), ((0, 2), "pickup to bar 2"),
     ((-1, 0), "pickup")],
)  # fmt: skip
def test_a_pickup_has_no_number(bars: tuple[int, ...], said: str) -> None:
    """Counting begins with the first whole bar (common practice, no source)."""
    assert bar_words(*bars) == said
