"""What a student takes home: loops as long as promised, a page that plays them, a film in step with its sound."""

import io
import json
import zipfile
from functools import cache
from html.parser import HTMLParser
from pathlib import Path
from urllib.parse import unquote

import av
import numpy as np
import pytest
import soundfile
from lxml import html

from notcher.cli import main
from notcher.core.errors import Cancelled
from notcher.core.formats import Document, FileError, write_document
from notcher.core.score import BeatMap, Chord, Note, Phrase, Score
from notcher.core.sound import Clip, read_clip
from notcher.core.synthesis import render
from notcher.core.teaching import ClickSide, PackChoices, PackError, SoundKind, phrases_from_text, rungs_from_text
from notcher.core.teaching.pack import LoopKind, make_loops, phrase_sound
from notcher.core.teaching.pack_page import RIGHTS
from notcher.core.teaching.pack_writing import write_pack
from notcher.painting.film import CARD_S, FRAMES_PER_S, HEIGHT, WIDTH, phrase_film
from notcher.painting.theme import load_fonts

RATE = 44_100


@cache
def solo() -> Score:
    """Two phrases of four quarters at 120, over chords."""
    notes = tuple(Note(2.0 + 0.5 * at, 2.0 + 0.5 * at + 0.3, 2, 5 + at) for at in range(8))
    phrases = (Phrase(2.0, 4.0, "Call"), Phrase(4.0, 6.0, "Réponse / 2"))
    return Score(notes, beat_map=BeatMap.steady(120, 0.0), phrases=phrases, title="Slack water",
                 chords=(Chord(0.0, "Em"),))  # fmt: skip


@pytest.fixture(scope="module")
def recording() -> Clip:
    clip = render(solo(), duration_s=7.0)
    return Clip(np.repeat(clip.samples, 2, axis=1), RATE, "the recording")


def packed(recording: Clip | None, choices: PackChoices) -> tuple[dict[str, bytes], list[dict[str, object]]]:
    files: dict[str, bytes] = {}
    loops = make_loops(solo(), recording, choices, files.__setitem__)
    return files, [loop.row for loop in loops]


@pytest.mark.slow
@pytest.mark.parametrize("pace", [0.5, 0.7, 1.0])
def test_a_loop_is_a_count_in_of_whole_beats_and_the_phrase_at_its_pace(recording: Clip, pace: float) -> None:
    """At 120 beats a bar of four lasts 2 s; at a pace everything lasts its inverse."""
    files, rows = packed(recording, PackChoices(rungs=(pace,), sound=SoundKind.WAV))
    for row in rows:
        sound, rate = soundfile.read(io.BytesIO(files[str(row["file"])]))
        assert row["count_in_s"] == pytest.approx(2.0 / pace, abs=0.001)
        assert row["seconds"] == pytest.approx(4.0 / pace, abs=0.002)
        assert sound.shape[0] / rate == pytest.approx(row["seconds"], abs=0.001)
        beats = row["count_in_s"] / (0.5 / pace)
        assert beats == pytest.approx(round(beats), abs=1e-3)


def test_what_sounds_lies_where_it_was_played(recording: Clip) -> None:
    """The first note of the phrase is heard right after the count-in, the third a second later at half pace ×2."""
    sound, count_in_s = phrase_sound(solo(), recording, solo().phrases[0], 0.5, LoopKind.TAB)
    level = np.abs(sound.mean(axis=1))
    hop = RATE // 200
    level = level[: level.size // hop * hop].reshape(-1, hop).max(axis=1)
    after = level[round(count_in_s * 200) :]
    # notes of 0.3 s every half second, at half pace: sound for 0.6 s, then silence, every second
    for at in range(3):
        assert after[200 * at + 20 : 200 * at + 60].max() > 5 * after[200 * at + 160 : 200 * at + 190].max()


@pytest.mark.slow
@pytest.mark.parametrize("kind", list(SoundKind))
def test_every_sound_format_is_read_by_libsndfile(recording: Clip, kind: SoundKind) -> None:
    files, rows = packed(recording, PackChoices((solo().phrases[0].id,), (1.0,), kind))
    assert {str(row["kind"]) for row in rows} == {"recording", "tab", "band"}
    for name, data in files.items():
        info = soundfile.info(io.BytesIO(data))
        assert info.format == kind.upper()
        assert info.duration == pytest.approx(4.0, abs=0.06)  # MP3 pads to whole frames of 26 ms
        assert name.endswith(kind)


def test_clicks_stand_on_their_side(recording: Clip) -> None:
    """With clicks on the left the music is on the right, and the left is silent between clicks."""
    phrase = solo().phrases[0]
    sound, count_in_s = phrase_sound(solo(), recording, phrase, 1.0, LoopKind.TAB, click=ClickSide.LEFT)
    body = sound[round(count_in_s * RATE) :]
    left, right = np.abs(body[:, 0]), np.abs(body[:, 1])
    assert left[: RATE // 20].max() > 0.05  # on the beat
    between = slice(round(0.2 * RATE), round(0.4 * RATE))
    assert left[between].max() < 0.01 < right[between].max()


def test_a_wide_recording_gives_the_band_without_its_middle() -> None:
    score = solo()
    lead = render(score, duration_s=7.0).samples[:, 0]
    noise = np.random.default_rng(1).normal(0, 0.05, (lead.size, 2)).astype(np.float32)
    clip = Clip(noise + lead[:, None], RATE, "mix")
    with_lead, _ = phrase_sound(score, clip, score.phrases[0], 1.0, LoopKind.RECORDING)
    band, _ = phrase_sound(score, clip, score.phrases[0], 1.0, LoopKind.BAND)
    part = slice(round(2.1 * RATE), round(3.9 * RATE))
    assert np.std(band[part].mean(axis=1)) < 0.5 * np.std(with_lead[part].mean(axis=1))


# --- the pack ---
class Listed(HTMLParser):
    """What a page points to, as the standard library's parser reads it."""

    def __init__(self) -> None:
        super().__init__()
        self.sources: list[str] = []
        self.tags: set[str] = set()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.add(tag)
        self.sources += [value for name, value in attrs if name in ("src", "href") and value]


@pytest.mark.slow
@pytest.mark.outside(
    what="the pack's page holds the players that it names",
    source="lxml's HTML parser",
    tolerance="exact",
    why="file names",
    kind="library",
)
def test_the_page_plays_everything_and_asks_nothing_of_the_net(recording: Clip, tmp_path: Path) -> None:
    target = tmp_path / "for Ada.zip"
    choices = PackChoices(rungs=(0.7, 1.0))
    loops = write_pack(target, solo(), recording, choices, student="Ada", sheet=lambda *_: b"%PDF-1.4 x")
    with zipfile.ZipFile(target) as archive:
        assert archive.testzip() is None
        names = set(archive.namelist())
        page = archive.read("index.html").decode()
        rows = json.loads(archive.read("pack.json"))
        plan = archive.read("plan.txt").decode()
    assert rows == [loop.row for loop in loops]
    assert "Call" in plan
    read = Listed()
    read.feed(page)
    assert "script" not in read.tags
    assert not [source for source in read.sources if "//" in source]
    assert {unquote(source) for source in read.sources} == names - {"index.html", "pack.json"}
    tree = html.fromstring(page)  # lxml's parser finds the same players
    assert len(tree.xpath("//audio")) == len(loops)
    assert tree.xpath("//meta[@name='viewport']")
    assert RIGHTS in tree.text_content()
    assert "for Ada" in tree.xpath("//h1")[0].text


def test_a_pack_as_a_folder_is_whole_or_not_there(recording: Clip, tmp_path: Path) -> None:
    choices = PackChoices((solo().phrases[0].id,), (1.0,))
    write_pack(tmp_path / "pack", solo(), None, choices)
    assert (tmp_path / "pack" / "loops" / "01 call 100 tab.mp3").exists()
    with pytest.raises(PackError, match="something in 'pack' already"):
        write_pack(tmp_path / "pack", solo(), None, choices)
    calls = iter(range(100))
    with pytest.raises(Cancelled):
        write_pack(tmp_path / "other", solo(), recording, choices, cancelled=lambda: next(calls) > 1)
    with pytest.raises(Cancelled):
        write_pack(tmp_path / "other.zip", solo(), recording, choices, cancelled=lambda: True)
    assert [path.name for path in tmp_path.iterdir()] == ["pack"]


@pytest.mark.slow
def test_a_full_disk_leaves_nothing_behind(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import errno
    import os

    def full(*_: object) -> int:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(Path, "write_bytes", full)
    with pytest.raises(FileError, match="No space left"):
        write_pack(tmp_path / "pack", solo(), None, PackChoices(rungs=(1.0,)))
    monkeypatch.undo()
    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileError, match="No space left"):
        write_pack(tmp_path / "pack.zip", solo(), None, PackChoices(rungs=(1.0,)))
    assert not list(tmp_path.iterdir())


@pytest.mark.parametrize(
    ("words", "sentence"),
    [(["--rungs", "5"], "between 25 and 150"), (["--rungs", "fast"], "are no tempos"),
     (["--phrases", "9"], "There are phrases 1 to 2"), (["--student", "X"], "no ledger yet")],
)  # fmt: skip
def test_wrong_words_are_told_in_one_sentence(
    tmp_path: Path, words: list[str], sentence: str, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    write_document(Document(solo()), tmp_path / "solo.notch")
    assert main(["pack", str(tmp_path / "solo.notch"), "-o", str(tmp_path / "p.zip"), "--quiet", *words]) == 2
    assert sentence in capsys.readouterr().err
    assert not (tmp_path / "p.zip").exists()


def test_a_pack_of_nothing_is_refused(tmp_path: Path) -> None:
    with pytest.raises(PackError, match="no phrase with notes"):
        write_pack(tmp_path / "p.zip", Score(), None, PackChoices())
    assert rungs_from_text("50, 70 %, 100") == (0.5, 0.7, 1.0)
    assert phrases_from_text("2,1", solo()) == (solo().phrases[1].id, solo().phrases[0].id)


@pytest.mark.slow
def test_the_command_makes_a_pack_with_a_film(tmp_path: Path, capsys: pytest.CaptureFixture[str], qapp: object) -> None:
    write_document(Document(solo()), tmp_path / "solo.notch")
    words = ["pack", str(tmp_path / "solo.notch"), "-o", str(tmp_path / "p.zip"), "--phrases", "1", "--rungs", "100",
             "--film", "--quiet"]  # fmt: skip
    assert main(words) == 0
    with zipfile.ZipFile(tmp_path / "p.zip") as archive:
        assert "films/01 call.mp4" in archive.namelist()
        assert archive.read("slack-water.pdf").startswith(b"%PDF")
    assert "loops" in capsys.readouterr().out


# --- films ---
def heard_at(container: "av.container.InputContainer") -> tuple[np.ndarray, float]:
    """The sound of a film and the time of its first sample, by the demuxer's own clock."""
    blocks, first = [], None
    for frame in container.decode(container.streams.audio[0]):
        if first is None:
            first = float(frame.pts * frame.time_base)
        blocks.append(frame.to_ndarray().mean(axis=0))
    return np.concatenate(blocks), first or 0.0


@pytest.mark.slow
def test_a_film_is_in_step_with_its_sound(tmp_path: Path, qapp: object) -> None:
    """By PyAV's demuxer: H.264 and AAC, 1280 × 720, 30 a second; the playhead crosses each note within 40 ms of its
    sound, both as the file times them."""
    load_fonts()
    score = solo()
    path = tmp_path / "film.mp4"
    path.write_bytes(phrase_film(score, None, score.phrases[0], (0.5,)))
    with av.open(str(path)) as container:
        video = container.streams.video[0]
        assert (video.width, video.height, float(video.average_rate)) == (WIDTH, HEIGHT, FRAMES_PER_S)
        assert (video.codec_context.name, container.streams.audio[0].codec_context.name) == ("h264", "aac")
        sound, first_s = heard_at(container)
    heads = []
    with av.open(str(path)) as container:
        for frame in container.decode(container.streams.video[0]):
            picture = frame.to_ndarray(format="rgb24").astype(int)
            warm = (picture[..., 0] - picture[..., 2] > 90).mean(axis=0)  # the playhead's colour, top to bottom
            heads.append((float(frame.pts * frame.time_base), float(np.argmax(warm)) if warm.max() > 0.9 else np.nan))
    times, xs = np.array(heads).T
    begin_s = CARD_S + 4.0  # a card, then a bar of four at half of 120
    moving = times > begin_s + 0.1
    slope, offset = np.polyfit(times[moving], xs[moving], 1)
    start_x = np.nanmedian(xs[(times > CARD_S + 0.2) & (times < begin_s - 0.2)])
    leaves_s = (start_x - offset) / slope  # when the playhead leaves the first note
    level = np.abs(sound)
    rate = 44_100
    quiet = level[round((begin_s - 0.3 - first_s) * rate) : round((begin_s - 0.1 - first_s) * rate)].max()
    after = level[round((begin_s - 0.1 - first_s) * rate) :]
    sounds_s = begin_s - 0.1 + float(np.argmax(after > quiet + 0.05)) / rate
    assert leaves_s == pytest.approx(sounds_s, abs=0.04)
    assert slope > 0


# --- M4A ---
def test_m4a_is_read_through_pyav(tmp_path: Path) -> None:
    """Written by PyAV's encoder: a second of A at 440 Hz; its loudest partial is there (FFT), its length is right."""
    path = tmp_path / "tone.m4a"
    tone = 0.5 * np.sin(2 * np.pi * 440 * np.arange(RATE) / RATE).astype(np.float32)
    with av.open(str(path), "w", format="mp4") as container:
        stream = container.add_stream("aac", rate=RATE, layout="stereo")
        for at in range(0, RATE, 1024):
            block = av.AudioFrame.from_ndarray(
                np.ascontiguousarray(np.stack([tone[at : at + 1024]] * 2)), format="fltp", layout="stereo"
            )
            block.sample_rate, block.pts = RATE, at
            container.mux(stream.encode(block))
        container.mux(stream.encode(None))
    clip = read_clip(path)
    assert (clip.sample_rate, clip.channels) == (RATE, 2)
    assert clip.duration_s == pytest.approx(1.0, abs=0.06)
    spectrum = np.abs(np.fft.rfft(clip.samples[:RATE, 0]))
    assert np.argmax(spectrum) * RATE / min(RATE, clip.samples.shape[0]) == pytest.approx(440, abs=2)


@pytest.mark.parametrize("data", [b"", b"not an m4a at all", b"\x00\x00\x00\x18ftypM4A " + bytes(40)])
def test_damaged_m4a_is_refused(tmp_path: Path, data: bytes) -> None:
    from notcher.core.sound.decode import AudioError

    path = tmp_path / "bad.m4a"
    path.write_bytes(data)
    with pytest.raises(AudioError):
        read_clip(path)
