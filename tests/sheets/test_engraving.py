"""Engraving held to what is published: SMuFL's font data, Knuth and Plass, springs and rods, beams, spelling."""

from importlib.resources import files
from io import BytesIO
from itertools import combinations, pairwise

import numpy as np
import pytest
from fontTools.pens.boundsPen import BoundsPen
from fontTools.ttLib import TTFont
from music21 import converter, pitch
from music21 import key as m21_key
from music21 import note as m21_note
from music21 import stream as m21_stream
from music21.harmony import ChordSymbol
from scipy.optimize import brentq

from made_scores import any_score
from notcher.core.formats.musicxml.writing import musicxml_text
from notcher.core.score import BeatMap, Key, Note, Score
from notcher.core.score.notation import written_bars
from notcher.core.sheets import Fill, Page, PageMaker, SheetChoices, Words, page_items, smufl
from notcher.core.sheets.beams import SLANTS, STEEPEST, beam_line, beam_runs, slant
from notcher.core.sheets.breaking import FORBIDDEN, best_breaks, demerits, line_breaks
from notcher.core.sheets.engraver import Engraver
from notcher.core.sheets.heads import heads_of, key_signs
from notcher.core.sheets.spacing import GOOD_STRETCH, LOOSEST, Gap, spaced, spring_of
from notcher.core.sheets.style import SPACE_MM, Style
from notcher.core.sheets.typeface import Typeface, extent, fitted, wrapped
from notcher.core.words import USUAL
from notcher.demo.solo import demo_score

FONTS = files("notcher") / "fonts"


# --- SMuFL ---
@pytest.mark.slow
@pytest.mark.outside(
    what="boxes of the music font's signs",
    source="SMuFL 1.4 and the font's own metadata",
    tolerance="0.06 spaces",
    why="curves against their control boxes",
    kind="standard",
)
@pytest.mark.parametrize("name", sorted(smufl.CODE_POINTS))
def test_each_code_point_is_the_sign_that_smufl_names(name: str) -> None:
    """The font's metadata tells each sign's box by its SMuFL name; the outline at our code point has that box.

    Source: the font's own `glyphBBoxes` (SMuFL 1.4, metadata); told to a few thousandths of a space, 4 spaces an em.
    """
    font = TTFont(BytesIO((FONTS / Typeface.MUSIC.value).read_bytes()), lazy=True)
    glyphs = font.getGlyphSet()
    pen = BoundsPen(glyphs)
    glyphs[font.getBestCmap()[smufl.CODE_POINTS[name]]].draw(pen)
    spaces = np.array(pen.bounds) * 4 / font["head"].unitsPerEm
    told = smufl._metadata()["glyphBBoxes"][name]
    assert spaces == pytest.approx([*told["bBoxSW"], *told["bBoxNE"]], abs=0.06)


@pytest.mark.outside(
    what="thickness of staff lines, stems, beams",
    source="SMuFL engravingDefaults of the font's makers",
    tolerance="exact",
    why="numbers",
    kind="standard",
)
@pytest.mark.parametrize(
    ("name", "spaces"),
    [("staffLineThickness", 0.13), ("stemThickness", 0.12), ("beamThickness", 0.5), ("beamSpacing", 0.25),
     ("legerLineExtension", 0.4), ("thinBarlineThickness", 0.16), ("thickBarlineThickness", 0.5)],
)  # fmt: skip
def test_lines_are_as_thick_as_the_font_was_drawn_for(name: str, spaces: float) -> None:
    """SMuFL's engravingDefaults, from the metadata that the font's makers ship with it."""
    assert smufl.default(name) == spaces
    style = Style()
    assert style.stem == pytest.approx(0.12 * SPACE_MM)
    assert style.beam_step == pytest.approx(0.75 * SPACE_MM)


def staff_page(score: Score) -> Page:
    return PageMaker().pages(score, SheetChoices(staff=True, legend=False))[0]


@pytest.mark.outside(
    what="where a stem meets its head",
    source="SMuFL anchors stemUpSE and stemDownNW",
    tolerance="0.01 spaces",
    why="rounding",
    kind="standard",
)
def test_stems_stand_at_the_anchors_of_their_heads() -> None:
    """SMuFL: stemUpSE and stemDownNW say where a stem's outer edge meets a black head: at its side."""
    notes = (Note(0.0, 0.9, 3, 2), Note(1.0, 1.9, 1, 12))  # A3 under the middle line, E5 over it
    items = page_items(staff_page(Score(notes, beat_map=BeatMap.steady(60, 0.0))))
    heads = [item for item in items if item.kind == "head"]
    stems = [item for item in items if item.kind == "stem"]
    low, high = sorted(heads, key=lambda item: item.box.left)
    up, down = sorted(stems, key=lambda item: item.box.left)
    assert smufl.anchor("noteheadBlack", "stemUpSE") == (1.18, 0.168)
    assert up.box.right == pytest.approx(low.box.right, abs=0.01)
    assert down.box.left == pytest.approx(high.box.left, abs=0.01)
    assert up.box.top < low.box.top
    assert down.box.bottom > high.box.bottom


@pytest.mark.outside(
    what="how long a stem is", source="T. Ross 1970, E. Gould 2011", tolerance="exact", why="half spaces", kind="memory"
)
def test_a_stem_is_an_octave_long_and_reaches_the_middle_line_from_ledger_lines() -> None:
    """Three and a half spaces (Ross 1970, Gould 2011, from memory). What sounds E6 is written E7, seventeen
    steps over the middle line: 8.5 spaces."""
    notes = (Note(0.0, 0.9, 3, 4), Note(1.0, 1.9, 1, 24))
    items = page_items(staff_page(Score(notes, beat_map=BeatMap.steady(60, 0.0))))
    stems = sorted((item for item in items if item.kind == "stem"), key=lambda item: item.box.left)
    plain, far = ((stem.box.bottom - stem.box.top) / SPACE_MM for stem in stems)
    assert plain == pytest.approx(3.5)
    assert far == pytest.approx(8.5)


# --- breaking ---
@pytest.mark.outside(
    what="badness and demerits of a line",
    source="D. Knuth, M. Plass, Software: Practice and Experience 11, 1981",
    tolerance="1e-9",
    why="floating point",
    kind="derivation",
)
def test_badness_and_demerits_are_those_of_knuth_and_plass() -> None:
    """Knuth and Plass 1981, p. 1128: a line drawn out to its limit has badness 100; demerits are (1 + β + π)²."""
    assert demerits(1.0, 0.0) == pytest.approx(101.0**2)
    assert demerits(0.5, 50.0) == pytest.approx((1 + 12.5 + 50) ** 2)
    assert demerits(0.0, -90.0) == pytest.approx(1.0 - 90.0**2)


def naive(gaps: list[Gap], penalties: list[float], width: float) -> float:
    """The least demerits over every way to break, tried one after another."""
    best = np.inf
    ends = [at for at in range(len(gaps) - 1) if penalties[at] < FORBIDDEN]
    for count in range(len(ends) + 1):
        for chosen in combinations(ends, count):
            total, begin = 0.0, 0
            for end in [*(at + 1 for at in chosen), len(gaps)]:
                total += price(gaps[begin:end], penalties[end - 1], width, last=end == len(gaps))
                begin = end
            best = min(best, total)
    return float(best)


def price(line: list[Gap], penalty: float, width: float, *, last: bool) -> float:
    least, rest = sum(gap.rod for gap in line), sum(gap.rest for gap in line)
    if least > width:
        return np.inf
    diff = width - rest
    ratio = diff / (GOOD_STRETCH * sum(gap.spring for gap in line)) if diff > 0 else diff / max(rest - least, 1e-6)
    if last and ratio > 0:
        return demerits(min(ratio, 0.3), 0.0)
    return demerits(ratio, penalty)


@pytest.mark.parametrize("seed", range(20))
def test_lines_are_broken_where_the_whole_costs_least(seed: int) -> None:
    """Against every way there is: the shortest path finds the least sum of demerits."""
    dice = np.random.default_rng(seed)
    gaps = [Gap(float(rod), float(rod * dice.uniform(0.8, 1.6))) for rod in dice.uniform(4, 9, 11)]
    penalties = [float(dice.choice([0.0, 60.0, -90.0, FORBIDDEN])) for _ in gaps]
    width = 30.0
    ends = line_breaks(gaps, penalties, first_width=width, width=width, lead=[0.0] * len(gaps))
    spans = list(pairwise([0, *ends]))
    if not np.isfinite(naive(gaps, penalties, width)):  # what is too wide and may not be broken has a line of its own
        wide = [(a, b) for a, b in spans if sum(gap.rod for gap in gaps[a:b]) > width]
        assert wide
        assert all(penalty == FORBIDDEN for a, b in wide for penalty in penalties[a : b - 1])
        return
    total = sum(price(gaps[a:b], penalties[b - 1], width, last=b == len(gaps)) for a, b in spans)
    assert total == pytest.approx(naive(gaps, penalties, width))


def test_what_cannot_be_broken_is_told() -> None:
    with pytest.raises(ValueError, match="no way"):
        best_breaks(2, lambda _first, _last: None)


# --- spacing ---
@pytest.mark.outside(
    what="gaps of a line under one force",
    source="J. Gourlay 1987; scipy.optimize finds the force",
    tolerance="1e-6",
    why="root finding",
    kind="library",
)
@pytest.mark.parametrize("seed", range(12))
def test_springs_take_one_force_and_rods_do_not_give_way(seed: int) -> None:
    """Gourlay 1987: each gap is its rod or its spring under the one force; SciPy's root finder gives the same force."""
    dice = np.random.default_rng(seed)
    gaps = [Gap(float(dice.uniform(2, 8)), float(dice.uniform(1, 9))) for _ in range(14)]
    width = float(dice.uniform(1.05, 1.7)) * sum(gap.rest for gap in gaps)
    at = spaced(gaps, width)

    def length(force: float) -> float:
        return sum(max(gap.rod, force * gap.spring) for gap in gaps) - width

    force = min(float(brentq(length, 0.0, 50.0)), LOOSEST)
    assert np.diff(at) == pytest.approx([max(gap.rod, force * gap.spring) for gap in gaps], rel=1e-6)


@pytest.mark.outside(
    what="the room of a half note over a quarter's",
    source="T. Ross 1970, E. Gould 2011",
    tolerance="0.05",
    why="tables differ",
    kind="memory",
)
def test_twice_as_long_takes_about_1_4_times_the_room() -> None:
    """Ross 1970 and Gould 2011 (from memory): a half note's room is 1.4 of a quarter's, not twice it."""
    assert spring_of(2.0, 1.0) / spring_of(1.0, 1.0) == pytest.approx(1.4, abs=0.05)


# --- beams ---
def test_beams_join_and_stubs_point_as_counted() -> None:
    """Eighth, two 16ths: one beam over all, one over the last two. Dotted eighth, 16th: a stub at the last."""
    assert [(run.level, run.first, run.last) for run in beam_runs([1, 2, 2])] == [(0, 0, 2), (1, 1, 2)]
    assert [(run.level, run.first, run.last) for run in beam_runs([1, 2])] == [(0, 0, 1), (1, 1, 1)]


def test_a_beam_is_flatter_than_its_interval_and_level_over_a_far_inner_note() -> None:
    """Gould 2011, "Beams" (from memory): level for a repeated note or an inner note beyond both; flat where short."""
    assert slant([2, 2], 10.0) == 0.0
    assert slant([0, 5, 1], 10.0) == 0.0
    assert slant([0, 3], 20.0) == SLANTS[3] == -slant([3, 0], 20.0)
    assert abs(slant([0, 6], 2.0)) == pytest.approx(2.0 * STEEPEST)


def test_no_stem_under_a_beam_is_too_short() -> None:
    xs, nears = [0.0, 3.0, 6.0], [4.0, -1.0, 3.0]
    least = [near - 2.5 for near in nears]
    at, slope = beam_line([near - 3.5 for near in nears], xs, 0.5, up=True, least=least)
    ends = [at + slope * x for x in xs]
    assert all(end <= low + 1e-9 for end, low in zip(ends, least, strict=True))
    assert slope == pytest.approx(-0.5 / 6)


@pytest.mark.slow
def test_beams_on_pages_lie_flatter_than_the_notes_they_join() -> None:
    for seed in (1, 2, 5):
        for item in page_items(staff_page(any_score(seed))):
            if isinstance(item, Fill) and item.kind == "beam" and len(item.points) == 4:
                (x0, y0), (x1, y1) = item.points[:2]
                assert abs(y1 - y0) <= STEEPEST * abs(x1 - x0) + 1e-6


# --- spelling on the staff ---
@pytest.mark.outside(
    what="where a head stands and which sign it has",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="steps and signs",
    kind="library",
)
@pytest.mark.parametrize(
    "key", [Key("E", "natural minor"), Key("Ab"), Key("F#"), Key("C"), Key("B", "dorian")], ids=str
)
def test_heads_and_accidentals_are_those_of_music21(key: Key) -> None:
    """Steps from the middle line and accidentals by the bar, against music21's stream with the same spellings.

    Within one octave: over octaves music21 lets a sign hold that Read 1979 does not.
    """
    dice = np.random.default_rng(7)
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.45, 3, int(dice.integers(11))) for at in range(32))
    score = Score(notes, beat_map=BeatMap.steady(120, 0.0), key=key)
    heads = heads_of(score, written_bars(score), sounding=True)
    engraver = Engraver(score, SheetChoices(), Style(), USUAL, 180.0)
    for bar in range(8):
        measure = m21_stream.Measure()
        measure.append(m21_key.KeySignature(key.fifths))
        for index in range(4 * bar, 4 * bar + 4):
            head = heads[index]
            step = head.step + 7 * 4 + 6
            natural = pitch.Pitch(f"{'CDEFGAB'[step % 7]}{step // 7 - 1}")  # written an octave above what sounds
            alter = round(score.sounding_midi(score.notes[index]) - natural.midi)
            if alter:
                natural.accidental = pitch.Accidental(alter)
            assert natural.midi == score.sounding_midi(score.notes[index])
            measure.append(m21_note.Note(natural))
        measure.makeAccidentals(inPlace=True, cautionaryNotImmediateRepeat=False, cautionaryPitchClass=False)
        for number, told in enumerate(measure.notes):
            shown = bool(told.pitch.accidental and told.pitch.accidental.displayStatus)
            assert shown == bool(heads[4 * bar + number].accidental), (bar, number, told.pitch)
    assert engraver.heads.keys() == heads.keys()


def test_an_accidental_holds_in_its_own_octave_to_the_end_of_the_bar() -> None:
    """G. Read, "Music Notation", 2nd ed. 1979 (from memory): C sharp, an octave up, again; and in a new bar."""
    places = ((2, 2), (1, 9), (2, 2), (2, 2), (2, 2))
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.45, string, fret) for at, (string, fret) in enumerate(places))
    score = Score(notes, beat_map=BeatMap.steady(120, 0.0))
    heads = heads_of(score, written_bars(score), sounding=True)
    assert [heads[at].accidental for at in range(5)] == [
        "accidentalSharp",
        "accidentalSharp",
        "",
        "",
        "accidentalSharp",
    ]


@pytest.mark.outside(
    what="signs of a key in their order",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="letters",
    kind="library",
)
@pytest.mark.parametrize("fifths", [-6, -3, -1, 0, 1, 4, 6])
def test_the_signs_of_a_key_stand_in_their_order(fifths: int) -> None:
    """F C G D A E B and B E A D G C F, against music21's key signatures."""
    key = next(Key(tonic) for tonic in ("Gb", "Eb", "F", "C", "G", "E", "F#") if Key(tonic).fifths == fifths)
    told = [altered.step for altered in m21_key.KeySignature(fifths).alteredPitches]
    assert ["CDEFGAB"[(step + 6) % 7] for _, step in key_signs(key)] == told


@pytest.mark.slow
@pytest.mark.outside(
    what="the page shows the values of the file",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="fractions of a quarter",
    kind="library",
)
def test_the_written_durations_of_the_file_and_of_the_page_are_the_same() -> None:
    """music21 reads our MusicXML: its bars hold the values that the page shows."""
    part = converter.parse(musicxml_text(demo_score()), format="musicxml").parts[0]
    bars = written_bars(demo_score())
    for measure, bar in zip(part.getElementsByClass("Measure"), bars, strict=True):
        main = measure.voices[0] if measure.voices else measure
        told = [e.duration.quarterLength for e in main.notesAndRests if not isinstance(e, ChordSymbol)]
        assert [float(value) for value in told] == pytest.approx([piece.length / 3360 for piece in bar.pieces])


# --- type ---
@pytest.mark.parametrize("face", [Typeface.TEXT, Typeface.TEXT_BOLD, Typeface.FIGURE, Typeface.FIGURE_BOLD])
def test_letters_are_as_wide_as_the_toolkit_draws_them(face: Typeface, qapp: object) -> None:
    """Against Qt's own metrics of the same fonts, unkerned: to a thousandth of an em a letter."""
    from PyQt6.QtGui import QFontMetricsF

    from notcher.painting.sheet_picture import FONT_PX, _font

    text = "Lantern watch 12¼ 15½ bar 7: Ebm7 — «ø»"
    wide = QFontMetricsF(_font(face)).horizontalAdvance(text) / FONT_PX
    assert extent(text, face, 1.0).advance == pytest.approx(wide, abs=0.001 * len(text))


def test_words_are_wrapped_into_lines_that_fit_and_lose_nothing() -> None:
    text = "the hand lets the string fall " * 6 + "incomprehensibilities" * 4
    lines = wrapped(text, Typeface.TEXT, 3.0, 40.0)
    assert all(extent(line, Typeface.TEXT, 3.0).advance <= 40.0 for line in lines)
    assert "".join(lines).replace(" ", "") == text.replace(" ", "")
    assert extent(fitted(text, Typeface.TEXT, 3.0, 40.0), Typeface.TEXT, 3.0).advance <= 40.0


def test_a_page_tells_its_tempo_in_felt_beats() -> None:
    items = page_items(PageMaker().pages(demo_score())[0])
    assert [item.text for item in items if isinstance(item, Words) and item.kind == "tempo"][-1] == "= 92"
