"""A phrase as a film: its measured tab with a playhead, rung after rung with their slowed sound, a card before each.

Written through PyAV as MP4 (H.264 and AAC, which every telephone plays). Each picture is painted once and only its
playhead is laid over it frame by frame, so that it is made several times as fast as it is watched.
"""

import io
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import partial
from itertools import pairwise

import av
import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, Progress, never_cancelled, no_progress
from notcher.core.hearing import EMPTY_TRACK, Measured, PitchTrack
from notcher.core.score import Phrase, Score
from notcher.core.sound import Clip, resampled
from notcher.core.teaching.pack import LoopKind, PackChoices, phrase_file, phrase_sound
from notcher.core.teaching.pack_writing import Extra
from notcher.core.teaching.plan import Plan
from notcher.core.teaching.words import step_words
from notcher.core.words import USUAL, Naming, figure, many
from notcher.painting.tab_frame import TabFrame
from notcher.painting.tab_picture import TabContent, draw_tab
from notcher.painting.theme import STAGE, Theme, text_font

WIDTH, HEIGHT, FRAMES_PER_S = 1280, 720, 30  # 720p at 30 frames a second, which every player shows
SOUND_RATE = 44_100  # Hz
CARD_S = 2.0
"""How long a card is shown before each rung."""
SCALE = 2.1
"""Of the tab's usual size: it is watched on a telephone, or from a chair away."""
MOST_SHOWN_S = 4.0
"""Of the recording in one picture; a longer phrase is turned like pages."""
LEAD_S = 0.12  # shown before and after the phrase
PLAYHEAD_PX = 6  # even, since the colour planes are halved
PRESET, PLANES = "ultrafast", "yuv420p"
Picture = npt.NDArray[np.uint8]
"""In planes as films have them: shape (1080, 1280), brightness over two of colour at half the size (ITU-T H.264)."""


@dataclass(frozen=True, slots=True)
class _Rung:
    """One rung of a film: its sound, how long it is counted in, its pace; what the lesson says of it."""

    pace: float
    sound: FloatArray
    count_in_s: float
    words: str = ""

    @property
    def seconds(self) -> float:
        return CARD_S + float(self.sound.shape[0]) / SOUND_RATE


def films_of(
    score: Score,
    recording: Clip | None,
    choices: PackChoices,
    track: PitchTrack = EMPTY_TRACK,
    plan: Plan | None = None,
) -> Mapping[str, Extra]:
    """Return what makes a film of each phrase of a pack, by its name in the pack. plan: what the cards tell of."""
    chosen = [phrase for phrase in score.phrases if not choices.phrases or phrase.id in choices.phrases]
    return {
        f"films/{phrase_file(score, phrase)}.mp4": partial(_film, score, recording, phrase, choices.rungs, track, plan)
        for phrase in chosen
    }


def _film(
    score: Score, recording: Clip | None, phrase: Phrase, rungs: Sequence[float], track: PitchTrack,
    plan: Plan | None, progress: Progress, cancelled: CancelCheck,
) -> bytes:  # fmt: skip
    return phrase_film(score, recording, phrase, rungs, track=track, plan=plan, progress=progress, cancelled=cancelled)


def phrase_film(
    score: Score,
    recording: Clip | None,
    phrase: Phrase,
    rungs: Sequence[float],
    *,
    track: PitchTrack = EMPTY_TRACK,
    plan: Plan | None = None,
    naming: Naming = USUAL,
    theme: Theme = STAGE,
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> bytes:
    """Return an MP4 of a phrase, slowest rung first. plan: the lesson that its cards tell of. Raises: Cancelled."""
    parts = [_rung(score, recording, phrase, pace, plan, cancelled) for pace in sorted(rungs)]
    pages = _pages(score, phrase, track, naming, theme)
    whole_s = sum(rung.seconds for rung in parts)
    stream = io.BytesIO()
    with av.open(stream, "w", format="mp4") as container:
        video = container.add_stream("libx264", rate=FRAMES_PER_S, options={"preset": PRESET, "crf": "23"})
        video.width, video.height, video.pix_fmt = WIDTH, HEIGHT, PLANES
        video.codec_context.time_base = Fraction(1, FRAMES_PER_S)
        video.codec_context.thread_count = 0  # as many as the machine has
        audio = container.add_stream("aac", rate=SOUND_RATE, layout="stereo")
        frames = _frames(score, phrase, parts, pages, naming, theme)
        sounds = _sounds(parts)
        sounded_s = 0.0
        for number, picture in enumerate(frames):
            if cancelled():
                raise Cancelled
            now_s = number / FRAMES_PER_S
            while sounded_s <= now_s and (block := next(sounds, None)) is not None:  # sound is never behind
                container.mux(audio.encode(block))
                sounded_s += block.samples / SOUND_RATE
            frame = av.VideoFrame.from_ndarray(picture, format=PLANES)
            frame.pts, frame.time_base = number, Fraction(1, FRAMES_PER_S)
            container.mux(video.encode(frame))
            if number % FRAMES_PER_S == 0:
                progress(min(1.0, now_s / whole_s))
        for block in sounds:
            container.mux(audio.encode(block))
        container.mux(video.encode(None))
        container.mux(audio.encode(None))
    progress(1.0)
    return stream.getvalue()


def _rung(
    score: Score, recording: Clip | None, phrase: Phrase, pace: float, plan: Plan | None, cancelled: CancelCheck
) -> _Rung:
    """A rung's sound: counted in, the recording where there is one, else the tab."""
    kind = LoopKind.RECORDING if recording is not None else LoopKind.TAB
    sound, count_in_s = phrase_sound(score, recording, phrase, pace, kind, cancelled=cancelled)
    rate = recording.sample_rate if recording is not None else SOUND_RATE
    words = "" if plan is None else _planned(plan, phrase, pace)
    return _Rung(pace, resampled(sound, from_rate=rate, to_rate=SOUND_RATE), count_in_s, words)


def _planned(plan: Plan, phrase: Phrase, pace: float) -> str:
    """What the lesson says of a phrase at the pace that is nearest, in words; nothing where it has none of it."""
    steps = [step for step in plan.steps if step.phrases == (phrase.id,) and step.piece is None and not step.listen]
    if not steps:
        return ""
    step = min(steps, key=lambda step: abs(step.pace - pace))
    return f"{many(step.rounds, 'time')}: {step_words(step, plan)}"


def _sounds(rungs: Sequence[_Rung]) -> Iterator["av.AudioFrame"]:
    """All sound in blocks of an AAC frame, silent under the cards."""
    silence = np.zeros((round(CARD_S * SOUND_RATE), 2), dtype=np.float32)
    whole = np.concatenate([part for rung in rungs for part in (silence, rung.sound.astype(np.float32))])
    for first in range(0, whole.shape[0], 1024):
        block = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(whole[first : first + 1024].T), format="fltp", layout="stereo"
        )
        block.sample_rate, block.pts, block.time_base = SOUND_RATE, first, Fraction(1, SOUND_RATE)
        yield block


# --- pictures ---
@dataclass(frozen=True, slots=True)
class _PageOfTab:
    """A picture of a stretch of the phrase, and where its times lie across."""

    start_s: float
    end_s: float
    picture: Picture
    x: Callable[[float], float]


def _pages(score: Score, phrase: Phrase, track: PitchTrack, naming: Naming, theme: Theme) -> list[_PageOfTab]:
    """The phrase in pictures, each of a stretch that is read at one look."""
    count = max(1, int(np.ceil((phrase.end_s - phrase.start_s) / MOST_SHOWN_S - 1e-9)))
    edges = np.linspace(phrase.start_s, phrase.end_s, count + 1).tolist()
    content = TabContent(score, Measured((track,)), naming=naming)
    pages = []
    for start_s, end_s in pairwise(edges):
        frame = _frame(score, start_s, end_s)

        def draw(painter: QPainter, frame: TabFrame = frame) -> None:
            draw_tab(painter, frame, content, theme)

        pages.append(_PageOfTab(start_s, end_s, _painted(draw), frame.x))
    return pages


def _frame(score: Score, start_s: float, end_s: float) -> TabFrame:
    """A frame in which a stretch fills the picture."""
    shell = TabFrame(WIDTH, HEIGHT, score.tuning.strings, scale=SCALE)
    px_per_s = (WIDTH - shell.left) / (end_s - start_s + 2 * LEAD_S)
    return TabFrame(WIDTH, HEIGHT, score.tuning.strings, start_s - LEAD_S, px_per_s, SCALE)


def _painted(draw: Callable[[QPainter], None]) -> Picture:
    """What is drawn, in planes."""
    image = QImage(WIDTH, HEIGHT, QImage.Format.Format_RGB888)
    painter = QPainter(image)
    draw(painter)
    painter.end()
    bits = image.constBits()
    if bits is None:
        raise RuntimeError("a picture without pixels")
    bits.setsize(image.sizeInBytes())
    rows: Picture = np.frombuffer(bits.asstring(), dtype=np.uint8).reshape(HEIGHT, image.bytesPerLine())
    return _in_planes(rows[:, : 3 * WIDTH].reshape(HEIGHT, WIDTH, 3))


def _in_planes(rgb: npt.NDArray[np.uint8]) -> Picture:
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(rgb), format="rgb24")
    return np.asarray(frame.reformat(format=PLANES).to_ndarray(), dtype=np.uint8)


def _with_playhead(picture: Picture, x: int, color: tuple[int, int, int]) -> Picture:
    """A picture with a line from top to bottom. color: of it in the planes."""
    result = picture.copy()
    left = max(0, min(WIDTH - PLAYHEAD_PX, x - PLAYHEAD_PX // 2)) // 2 * 2
    result[:HEIGHT, left : left + PLAYHEAD_PX] = color[0]
    quarter = HEIGHT // 4
    for number, value in enumerate(color[1:]):
        plane = result[HEIGHT + number * quarter : HEIGHT + (number + 1) * quarter].reshape(HEIGHT // 2, WIDTH // 2)
        plane[:, left // 2 : (left + PLAYHEAD_PX) // 2] = value
    return result


def _frames(
    score: Score, phrase: Phrase, rungs: Sequence[_Rung], pages: Sequence[_PageOfTab], naming: Naming, theme: Theme
) -> Iterator[Picture]:
    """Every frame: of each rung its card, then the tab with the playhead where the sound is."""
    color = theme.color("measured")
    pixel = np.full((2, 2, 3), [color.red(), color.green(), color.blue()], dtype=np.uint8)
    small = av.VideoFrame.from_ndarray(pixel, format="rgb24").reformat(format="yuv444p").to_ndarray()
    line = (int(small[0, 0, 0]), int(small[1, 0, 0]), int(small[2, 0, 0]))
    begin_s, number = 0.0, 0
    for rung in rungs:
        card = _painted(lambda painter, rung=rung: _draw_card(painter, score, phrase, rung, naming, theme))  # type: ignore[misc]
        end_s = begin_s + rung.seconds
        while number / FRAMES_PER_S < end_s - 1e-9:
            since_s = number / FRAMES_PER_S - begin_s
            if since_s < CARD_S:
                yield card
            else:
                at_s = phrase.start_s + max(0.0, since_s - CARD_S - rung.count_in_s) * rung.pace
                page = next((page for page in pages if at_s < page.end_s), pages[-1])
                yield _with_playhead(page.picture, round(page.x(at_s)), line)
            number += 1
        begin_s = end_s


def _draw_card(painter: QPainter, score: Score, phrase: Phrase, rung: _Rung, naming: Naming, theme: Theme) -> None:
    """What comes: the solo, the phrase, how slowly, and what the lesson says of it."""
    painter.fillRect(QRectF(0, 0, WIDTH, HEIGHT), theme.color("ground"))
    tempo = score.beat_map.tempo_at(phrase.start_s) * rung.pace if score.beat_map.known else 0.0
    pace = f"{figure(100 * rung.pace, naming=naming)} %"
    pace += f", {figure(tempo, naming=naming)} beats a minute" if tempo else ""
    rows = ((score.title or "Untitled solo", 2.4, "soft_ink", 0.30), (phrase.name or "Phrase", 5.0, "ink", 0.47),
            (pace, 3.2, "accent", 0.66), (rung.words, 2.6, "soft_ink", 0.82))  # fmt: skip
    for words, size, role, height in rows:
        painter.setFont(text_font(1.0, size=size, bold=role == "ink"))
        painter.setPen(theme.color(role))
        box = QRectF(60, height * HEIGHT - 60, WIDTH - 120, 120)
        shown = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, round(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, shown)
