"""The stand, the walk in words, the mix: by delivered keys, with a guitar in both hands."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hands import answer, choose, press, question, selected_at, settled, walk_to
from notcher.core.formats import Document
from notcher.core.score import STANDARD, BeatMap, Chord, Note, Phrase, Score, bent_curve
from notcher.core.sound import Clip
from notcher.core.teaching import line_at, place_words, stand_lines
from notcher.devices import SimulatedGuitarist, SimulatedLoudspeaker, Voice
from notcher.painting.stand_picture import draw_stand
from notcher.painting.theme import PAPER, STAGE, Theme, load_fonts
from notcher.ui.playback.monitor import InputMonitor
from notcher.ui.playback.sources import PlaybackSource
from notcher.ui.shell.program import Program
from notcher.ui.state.shell import Bench


def long_solo(count: int = 30) -> Score:
    notes = tuple(Note(0.5 * at, 0.5 * at + 0.45, 1 + at % 4, 5 + at % 8) for at in range(count))
    phrases = (Phrase(0.0, 0.5 * count, "Swell"),)
    return Score(
        notes, beat_map=BeatMap.steady(120, 0.0), chords=(Chord(0.0, "Am"), Chord(4.0, "Dm7")), phrases=phrases
    )


@pytest.fixture
def teaching(program: Program, qtbot: QtBot, lick: Score, lick_clip: Clip) -> Program:
    program.open(Document(lick, lick_clip), None)
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None, timeout=5_000)
    press("Ctrl+5")
    settled(program)
    return program


# --- the stand ---
def test_lines_hold_every_note_once_and_are_cut_at_bars() -> None:
    score = long_solo()
    lines = stand_lines(score)
    assert [(line.number, line.count) for line in lines] == [(1, 3), (2, 3), (3, 3)]
    held = [at for line in lines for at in score.notes_between(line.start_s, line.end_s)]
    assert held == list(range(30))
    assert all(line.start_s % 2.0 == 0 for line in lines), "four quarters at 120 are two seconds"
    assert [line_at(lines, time_s) for time_s in (0.0, lines[1].start_s, 99.0)] == [0, 1, 2]
    bare = Score(score.notes)
    assert [at for line in stand_lines(bare) for at in bare.notes_between(line.start_s, line.end_s)] == list(range(30))
    assert stand_lines(Score()) == []


def test_chord_bar_and_count_are_those_that_sound() -> None:
    score = long_solo()
    assert place_words(score, 0.0) == ("Am", "bar 1", "1")
    assert place_words(score, 4.6) == ("Dm7", "bar 3", "2")
    assert place_words(Score(), 1.0) == ("", "", "")


@pytest.mark.slow
@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080), (1024, 768)])
@pytest.mark.parametrize("theme", [PAPER, STAGE])
def test_figures_on_the_stand_are_a_thirtieth_of_its_height(
    qapp: QApplication, size: tuple[int, int], theme: Theme
) -> None:
    """A lone 8 on this line and one on the next: how high their ink is."""
    load_fonts()
    notes = (Note(0.5, 0.9, 6, 8), Note(4.5, 4.9, 6, 8))
    score = Score(notes, phrases=(Phrase(0.0, 2.0, "a"), Phrase(4.0, 6.0, "b")))
    image = QImage(*size, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    draw_stand(painter, QRectF(0, 0, *size), score, stand_lines(score), 1.5, theme)
    painter.end()
    ink, ground = theme.color("ink").lightness(), theme.color("panel").lightness()
    for top, bottom in ((0.42, 0.565), (0.84, 0.925)):
        rows = [
            y for y in range(round(top * size[1]), round(bottom * size[1]))
            if any(abs(image.pixelColor(x, y).lightness() - ink) < abs(ground - ink) / 3
                   for x in range(round(0.1 * size[0]), round(0.5 * size[0])))
        ]  # fmt: skip
        assert len(rows) >= size[1] / 30, f"{len(rows)} pixels of {size[1]}"


@pytest.mark.slow
def test_the_stand_takes_the_screen_by_one_key_and_gives_it_back(teaching: Program, qtbot: QtBot) -> None:
    press("F11")
    assert teaching.teaching.stand.isVisible()
    assert not teaching.reel.isVisible()
    before = teaching.teaching.stand.grab().toImage()
    press("L")
    press("Space")
    qtbot.waitUntil(lambda: teaching.player.playing and teaching.player.time_s > 1.5, timeout=20_000)
    assert teaching.teaching.stand.grab().toImage() != before, "the playhead moves"
    press("Space")
    press("Esc")
    assert not teaching.teaching.stand.isVisible()
    assert teaching.reel.isVisible()
    assert teaching.bench is Bench.TEACH
    assert QApplication.focusWidget() is teaching.teach.board
    press("F11")
    press("F11")
    assert not teaching.teaching.stand.isVisible()


# --- in words ---
@pytest.mark.slow
def test_one_key_sounds_a_note_and_says_it(teaching: Program, qtbot: QtBot) -> None:
    voice, notes = teaching.teaching.walk.voice, teaching.score.notes
    press("T")
    assert voice.said[-1] == "third string, twelve"
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=10_000)
    assert teaching.player.pace == 0.5
    assert teaching.player.time_s == pytest.approx(notes[0].onset_s, abs=0.3)
    press("T")
    assert voice.said[-1] == "third string, fourteen, bend a whole step, let it down"
    assert selected_at(teaching.session) == 1
    press("A")
    assert voice.said[-1] == voice.said[-2]
    press("Shift+T")
    assert voice.said[-1] == "third string, twelve"
    assert teaching.said == voice.said[-1], "what is not heard is read"
    press("Down")
    press("T")
    assert voice.said[-1].startswith("third string, nine"), "another row begins anew"


@pytest.mark.slow
def test_the_whole_phrase_is_said_copied_and_printed(teaching: Program, qtbot: QtBot, tmp_path: object) -> None:
    press("Y")
    script = "Twelve; then fourteen, bend a whole step, let it down on the third string; twelve, hammer on to fifteen"
    assert teaching.teaching.walk.voice.said[-1].startswith(script)
    press("Shift+Y")
    assert question().text().startswith(script)  # type: ignore[attr-defined]
    choose("Copy it")
    assert QApplication.clipboard().text().startswith(script)
    press("Shift+Y")
    choose("Write it as a page…")
    answer(str(tmp_path / "ask.pdf"))  # type: ignore[operator]
    page = QPdfDocument(None)
    assert page.load(str(tmp_path / "ask.pdf")) is QPdfDocument.Error.None_  # type: ignore[operator]
    assert "let it down on the third string" in page.getAllText(0).text()


@pytest.mark.slow
def test_the_foot_walks_and_the_naming_is_the_one_chosen(teaching: Program) -> None:
    teaching.settings.set("switch_1", "walk_words.next")
    teaching.settings.set("string_names", "letters")
    press("F9")
    assert teaching.teaching.walk.voice.said[-1] == "G string, twelve"


@pytest.mark.slow
def test_a_voice_that_goes_away_is_told_and_goes_on_in_writing(teaching: Program) -> None:
    press("T")
    gone: Voice = teaching.teaching.walk.voice
    gone.lost.emit("The voice went away.")
    assert "went away" in teaching.said
    press("T")
    assert teaching.teaching.walk.voice is not gone
    assert "fourteen" in teaching.said


# --- the mix ---
@pytest.mark.slow
def test_all_parts_play_together_and_each_follows_its_volume(teaching: Program, qtbot: QtBot) -> None:
    press("F4")
    settled(teaching)
    assert teaching.sources.chosen is PlaybackSource.MIX
    assert teaching.player.clip.channels == 5, "the recording, the tab, the band on two sides, the clicks"
    press("Ctrl+Alt+V")
    dialog = question()
    slider = dialog.sliders["volume_recording"]  # type: ignore[attr-defined]
    walk_to(slider)
    press("Home")
    press("Esc")
    settled(teaching)
    assert teaching.player.levels.recording == 0.0
    assert teaching.player.clip.channels == 4, "what is silent is not made"


@pytest.mark.slow
def test_the_sound_is_moved_to_meet_a_guitar(teaching: Program, qtbot: QtBot) -> None:
    press("Ctrl+F6")
    assert teaching.player.semitones == 1.0
    assert "1 half step higher" in teaching.said
    press("Shift+F5")
    assert teaching.player.semitones == pytest.approx(0.95)
    press("Ctrl+F7")
    assert teaching.player.semitones == 0.0, "it stands in standard tuning already"
    press("L")
    press("Space")
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=20_000)
    press("Ctrl+F5")
    qtbot.waitUntil(lambda: teaching.player.playing and not teaching.busy, timeout=20_000)
    assert teaching.player.semitones == -1.0


# --- the mirror ---
def bent_solo(string: int = 2, fret: int = 12) -> Score:
    notes = tuple(
        Note(1.5 * at, 1.5 * at + 1.3, string, fret, curve=bent_curve(2, 1.3, rise_s=0.25)) for at in range(3)
    )
    return Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, 4.4, "Push"),))


@pytest.mark.slow
@pytest.mark.parametrize(
    ("skill", "offset_cents", "low", "high"),
    [("steady hand", 0.0, -15.0, 15.0), ("steady hand", -35.0, -15.0, 15.0), ("short of the top", 0.0, -75.0, -20.0)],
)
def test_the_mirror_shows_how_far_known_bends_are_from_their_target(
    program: Program, qtbot: QtBot, skill: str, offset_cents: float, low: float, high: float
) -> None:
    """A simulated guitarist whose bends are known, heard block by block while he plays."""
    tuned = replace(STANDARD, offset_cents=offset_cents)  # the student tunes to the recording
    program.open(Document(replace(bent_solo(), tuning=tuned)), None)
    press("Ctrl+5")
    settled(program)
    program.teaching.recorder.play_as(skill)
    program.settings.set("latency_ms", 0.0)
    program.guitar.latency_s = 0.0  # type: ignore[attr-defined]
    program.player.set_pace(1.0)
    press("J")
    assert program.teach.mirror.isVisible()
    seen: list[float] = []

    def look() -> bool:
        found = program.teach.mirror.mirror.off_cents(program.score)
        if found is not None and program.teach.mirror.mirror.trace[-1][0] - found[0].onset_s > 0.6:
            seen.append(found[1])
        return len(seen) > 20

    qtbot.waitUntil(look, timeout=20_000)
    middle = sorted(seen)[len(seen) // 2]
    assert low < middle < high
    press("J")
    assert not program.teach.mirror.isVisible()
    assert not program.guitar.recording


@pytest.mark.slow
@pytest.mark.parametrize(("string", "fret"), [(2, 12), (4, 7)])
def test_the_gym_asks_and_shows_how_bends_landed(program: Program, qtbot: QtBot, string: int, fret: int) -> None:
    program.open(Document(bent_solo(string, fret)), None)
    press("Right")
    assert program.session.note is not None
    press("Ctrl+5")
    settled(program)
    program.guitar.latency_s = 0.0  # type: ignore[attr-defined]
    press("Shift+J")
    qtbot.waitUntil(lambda: program.teach.mirror.gym is not None and len(program.teach.mirror.gym.landed) >= 2,
                    timeout=25_000)  # fmt: skip
    assert all(abs(one.cents) < 40 for one in program.teach.mirror.gym.landed)
    press("Shift+J")
    assert program.teach.mirror.gym is None


@pytest.mark.slow
def test_a_take_has_the_input_before_the_mirror(teaching: Program, qtbot: QtBot) -> None:
    press("J")
    settled(teaching)
    press("F8")
    qtbot.waitUntil(lambda: teaching.teaching.recorder.state == "recording", timeout=10_000)
    assert not teaching.teaching.mirror.on
    teaching.teaching.recorder.cancel()


@pytest.mark.slow
def test_an_input_that_is_too_quiet_is_told_once(teaching: Program, qtbot: QtBot) -> None:
    press("J")
    settled(teaching)
    now = [0.0]
    teaching.teaching.mirror.clock = lambda: now[0]
    teaching.guitar._sound = np.zeros(0, np.float32)  # type: ignore[attr-defined]
    teaching.teaching.mirror._begin()
    now[0] = 9.0
    qtbot.waitUntil(lambda: "No pitch is heard" in teaching.said, timeout=5_000)
    press("J")


@pytest.mark.slow
def test_the_delay_is_kept_for_each_device(teaching: Program) -> None:
    settings = teaching.settings
    settings.keep_latency("Interface A", 31.0)
    settings.keep_latency("Interface B", 12.0)
    assert [settings.latency_s(name) for name in ("Interface A", "Interface B")] == [0.031, 0.012]
    assert settings.latency_s("never seen") == 0.012, "the one measured last stands for it"
    settings.keep_latency("simulated guitarist: steady hand", 120.0)
    assert settings.latency_s("simulated guitarist: rushes") == 0.12


class Playing(SimulatedGuitarist):
    """A guitar whose sound has come in up to a sample."""

    at = 0

    @property
    def position(self) -> int:
        return self.at


def test_the_students_input_is_handed_on_without_a_gap() -> None:
    guitar = Playing()
    monitor = InputMonitor(guitar)
    assert not monitor(100, 44_100).any(), "nothing is kept yet"
    guitar._sound = np.arange(4_000, dtype=np.float32) / 4_000
    guitar.start()
    told = []
    for guitar.at in range(500, 3_500, 500):
        told.append(monitor(500, 44_100))
    heard = np.concatenate(told)
    assert np.allclose(heard, guitar._sound[: heard.size]), "every sample once, in order"
    guitar.at = 3_999
    assert monitor(100, 48_000).shape == (100,), "at another rate as well"


# --- the ladder leads ---
@pytest.mark.slow
def test_the_ladder_leads_by_itself_where_that_is_wanted(teaching: Program, qtbot: QtBot) -> None:
    teaching.settings.set("climbs", True)
    teaching.apply_settings()
    press("Return")
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=20_000)
    assert teaching.player.pace == 0.5
    press("C")
    assert teaching.teach.board.pace == 0.6, (
        "before anything went wrong one clean pass leads a rung up; never two (common practice, no source)"
    )
    assert teaching.player.pace == 0.5, "never inside a round"
    teaching.player.speaker._speed = 8.0  # type: ignore[attr-defined]
    qtbot.waitUntil(lambda: teaching.player.pace == pytest.approx(0.6), timeout=20_000)
    press("M")
    press("M")
    assert teaching.teach.board.pace == pytest.approx(0.5)
    qtbot.waitUntil(lambda: teaching.player.pace == pytest.approx(0.5), timeout=20_000)
    for _ in range(3):
        press("C")
    qtbot.waitUntil(lambda: teaching.player.pace == pytest.approx(0.6), timeout=20_000)


# --- what can be amiss ---
@pytest.mark.slow
@pytest.mark.parametrize("length_s", [0.1, 240.0])
def test_a_phrase_of_a_moment_or_of_minutes_is_taught_all_the_same(
    program: Program, qtbot: QtBot, length_s: float
) -> None:
    count = 1 if length_s < 1 else 400
    notes = tuple(Note(length_s * at / count, length_s * (at + 0.9) / count, 2, 5 + at % 7) for at in range(count))
    score = Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, length_s, "Odd"),))
    program.open(Document(score), None)
    press("Ctrl+5")
    settled(program)
    press("P")
    settled(program)
    assert program.teach.plan.plan is not None
    press("T")
    assert program.teaching.walk.voice.said[-1] == "second string, five"  # type: ignore[union-attr]
    press("F11")
    program.teaching.stand.grab()
    press("Esc")
    press("Return")
    qtbot.waitUntil(lambda: program.player.playing or "could not" in program.said, timeout=60_000)
    press("Space")


def test_without_phrases_each_asks_for_one_in_a_sentence(program: Program, qtbot: QtBot) -> None:
    program.open(Document(Score()), None)
    press("Ctrl+5")
    settled(program)
    said = program.window.notices.label
    for keys, words in (("T", "no phrase with notes"), ("J", "no phrase yet"), ("Shift+Return", "no phrase yet")):
        press(keys)
        assert words in said.text().casefold() or words in said.text()
    press("F11")
    program.teaching.stand.grab()
    press("F11")


@pytest.mark.slow
@pytest.mark.parametrize(("keys", "bound"), [("Ctrl+Down", 0.25), ("Ctrl+Up", 1.5)])
def test_the_pace_stops_at_its_bounds_and_plays_there(teaching: Program, qtbot: QtBot, keys: str, bound: float) -> None:
    for _ in range(30):
        press(keys)
    assert teaching.player.pace == bound
    press("L")
    press("Space")
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=30_000)


def test_an_input_that_is_too_hot_is_told(teaching: Program, qtbot: QtBot) -> None:
    press("J")
    settled(teaching)
    teaching.guitar._sound = np.ones(400_000, np.float32)  # type: ignore[attr-defined]
    qtbot.waitUntil(lambda: "too hot" in teaching.said, timeout=5_000)
    press("J")


@pytest.mark.slow
def test_an_input_that_goes_away_is_told_and_the_loop_goes_on(teaching: Program, qtbot: QtBot) -> None:
    press("Return")
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=20_000)
    press("J")
    settled(teaching)
    teaching.guitar.lost.emit("The guitar input went away.")
    assert "went away" in teaching.said
    assert not teaching.teaching.mirror.on
    assert teaching.player.playing


class GoesAway(SimulatedLoudspeaker):
    """A loudspeaker that is a real one until it is unplugged."""

    simulated = False


@pytest.mark.slow
def test_a_loudspeaker_that_goes_away_is_told_and_the_playhead_goes_on(teaching: Program, qtbot: QtBot) -> None:
    gone = GoesAway()
    teaching.player.use(gone)
    teaching.teaching.recorder.use(gone)
    press("Return")
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=20_000)
    gone.lost.emit("The loudspeaker went away.")
    assert "goes on without it" in teaching.said
    assert teaching.player.speaker is not gone
    qtbot.waitUntil(lambda: teaching.player.playing, timeout=20_000)
    assert "loudspeaker" in teaching.reel.device_label.text() or "all devices" in teaching.reel.device_label.text()


@pytest.mark.slow
@pytest.mark.parametrize("keys", ["J", "Shift+J"])
def test_escape_leaves_the_mirror_and_the_gym(teaching: Program, qtbot: QtBot, keys: str) -> None:
    press(keys)
    qtbot.waitUntil(lambda: teaching.guitar.recording, timeout=10_000)
    press("Esc")
    assert not teaching.teach.mirror.isVisible()
    assert not teaching.guitar.recording
    assert QApplication.focusWidget() is teaching.teach.board


@pytest.mark.slow
def test_the_mirror_goes_round_the_stretch_while_nothing_plays(teaching: Program, qtbot: QtBot) -> None:
    """Faster than life: more seconds than the stretch has are heard, and each is shown inside it."""
    assert not teaching.player.playing
    guitar = teaching.guitar
    assert isinstance(guitar, SimulatedGuitarist)
    guitar._speed = 12.0
    times: list[float] = []
    mirror = teaching.teach.mirror.mirror
    hear = mirror.hear
    mirror.hear = lambda time_s, midi: (times.append(time_s), hear(time_s, midi))[1]  # type: ignore[method-assign]
    press("J")
    qtbot.waitUntil(lambda: len(times) > 5 and any(b < a for a, b in pairwise(times)), timeout=20_000)
    press("Esc")
    cell = teaching.teach.cell
    assert cell is not None
    assert min(times) >= cell[0].start_s - 1e-6
    assert max(times) <= cell[0].end_s + 1e-6
