"""Draws the measured tab: lanes, claim, evidence, counts, chords, phrases. Serves the screen and later the printer."""

from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QFontMetricsF, QPainter, QPen, QPolygonF

from notcher.core.hearing import EMPTY_TRACK, Measured, evidence
from notcher.core.neck import Place
from notcher.core.score import Attack, End, FeltBeat, Note, PickStroke, Score, Tone
from notcher.core.score.beat_map import SLACK
from notcher.core.words import USUAL, Naming, bend_name, string_letter
from notcher.painting.tab_frame import TabFrame, draw_unbroken, polygon
from notcher.painting.theme import Theme, figure_font, text_font

STEP_LINES = (1.0, 2.0, 3.0, 4.0)
"""Hairlines in each lane, semitones over the fret."""
NOTHING_MEASURED = Measured((EMPTY_TRACK,))
CLAIM_PX = 7.0  # wide enough to show on both sides of the measured line
END_PX = 16.0  # the mark of how a note ends stands behind it
LEAP_SEMITONES = 0.7  # more between two frames is another note: no line is drawn across
SKETCH_PX = 7.0  # notes narrower than this are sketched
LEAST_TAG_PX = 6.0  # with less room to the next note a figure cannot be read
HANDLE_PX = 7.0  # as large as a pointer hits
LEAST_NAME_PX = 26.0  # room for three letters


@dataclass(frozen=True, eq=False)
class TabContent:
    """What is drawn: the score, what was measured in the recording, what is selected, how things are called."""

    score: Score
    measured: Measured = NOTHING_MEASURED
    selected: int = -1
    loop: tuple[float, float] | None = None
    also_selected: tuple[int, ...] = ()
    strokes: bool = True
    naming: Naming = USUAL

    @property
    def selection(self) -> tuple[int, ...]:
        """All selected notes."""
        return self.also_selected or ((self.selected,) if self.selected >= 0 else ())


def draw_tab(painter: QPainter, frame: TabFrame, content: TabContent, theme: Theme) -> None:
    """Draw everything but the playhead."""
    painter.fillRect(QRectF(0, 0, frame.width, frame.height), theme.color("ground"))
    draw_lanes(painter, frame, content, theme)
    draw_chosen(painter, frame, content, theme)
    draw_header(painter, frame, content, theme)
    draw_names(painter, frame, content.score, theme, content.naming)


def draw_lanes(painter: QPainter, frame: TabFrame, content: TabContent, theme: Theme) -> None:
    """Draw the lanes with all notes, but nothing that depends on what is selected, looped or at the view's edge."""
    painter.fillRect(QRectF(0, frame.header, frame.width, frame.height - frame.header), theme.color("ground"))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    _draw_lanes(painter, frame, content.score, theme)
    _draw_beat_lines(painter, frame, content.score, theme)
    painter.save()
    painter.setClipRect(QRectF(frame.left, frame.header, frame.width - frame.left, frame.height - frame.header))
    notes = content.score.notes
    visible = _visible(content.score, frame)
    drawn = [index for index in visible if notes[index].duration_s * frame.px_per_s >= SKETCH_PX]
    far = set(visible).difference(drawn)
    _sketch_claims(painter, frame, [notes[index] for index in far], theme)
    for index in drawn:
        _draw_claim(painter, frame, notes[index], theme, content.naming)
    for index in drawn:
        _draw_evidence(painter, frame, content, notes[index], theme)
    rooms = dict(zip(visible, _room(content.score, visible, frame), strict=True))
    _sketch_tags(painter, frame, [(notes[i], room) for i, room in rooms.items() if room < LEAST_TAG_PX], theme)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for index, room in rooms.items():  # first, so that no stroke covers a figure
        if room >= LEAST_TAG_PX:
            _draw_attack_of(painter, frame, notes[index], room, theme)
    for index, room in rooms.items():
        if room >= LEAST_TAG_PX:
            _draw_tag(painter, frame, notes[index], room, theme, strokes=content.strokes)
    painter.restore()


def draw_chosen(painter: QPainter, frame: TabFrame, content: TabContent, theme: Theme) -> None:
    """Draw the loop and the selected notes over the lanes; the points of the one note's curve that can be dragged."""
    _draw_loop(painter, frame, content, theme)
    notes = content.score.notes
    painter.save()
    painter.setClipRect(QRectF(frame.left, frame.header, frame.width - frame.left, frame.height - frame.header))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    visible = _visible(content.score, frame)
    rooms = dict(zip(visible, _room(content.score, visible, frame), strict=True))
    for index in content.selection:
        if index in rooms:
            painter.save()  # what comes next on the string stays legible
            right = frame.x(notes[index].onset_s) + rooms[index]
            painter.setClipRect(QRectF(frame.left, frame.header, right - frame.left, frame.height - frame.header))
            _draw_tag(painter, frame, notes[index], rooms[index], theme, selected=True, strokes=content.strokes)
            painter.restore()
    if 0 <= content.selected < len(notes) and len(content.selection) == 1:
        painter.setPen(QPen(theme.color("accent"), 1.4))
        painter.setBrush(theme.color("panel"))
        for point in curve_handles(frame, notes[content.selected]):
            painter.drawRect(QRectF(point.x() - HANDLE_PX / 2, point.y() - HANDLE_PX / 2, HANDLE_PX, HANDLE_PX))
    painter.restore()


def draw_next(painter: QPainter, frame: TabFrame, time_s: float, string: int, theme: Theme) -> None:
    """Draw where the next note would be written: an empty tag with a foot on its lane."""
    width, height = tag_size(frame, "0")
    box = QRectF(frame.x(time_s), frame.y(string) - height / 2, 1.3 * width, height)
    painter.setPen(QPen(theme.color("accent"), 2.0, Qt.PenStyle.DashLine))
    painter.setBrush(theme.color("panel"))
    painter.drawRect(box)
    lane = frame.lane(string)
    painter.drawLine(QPointF(box.left(), lane.top() + 2), QPointF(box.left(), lane.bottom() - 2))


def draw_carried(painter: QPainter, frame: TabFrame, note: Note, place: Place, theme: Theme) -> None:
    """Draw where a note that is being carried to another string would come to lie."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(frame.lane(place.string), theme.color("accent", 10))
    _draw_tag(painter, frame, replace(note, string=place.string, fret=place.fret), 1e9, theme, selected=True)
    painter.restore()


def curve_handles(frame: TabFrame, note: Note) -> list[QPointF]:
    """Return where the breakpoints of a note's curve lie."""
    width, height = tag_size(frame, tag_text(note))
    left, middle = frame.x(note.onset_s), frame.y(note.string)
    spots = []
    for time_s, bend in note.curve.points:
        spot = QPointF(frame.x(note.onset_s + time_s), frame.y(note.string, bend))
        over = -HANDLE_PX < spot.x() - left < width and abs(spot.y() - middle) < (height + HANDLE_PX) / 2
        spots.append(QPointF(spot.x(), middle - (height + HANDLE_PX) / 2 - 1) if over else spot)
    return spots


def draw_header(painter: QPainter, frame: TabFrame, content: TabContent, theme: Theme) -> None:
    """Draw chords, phrases and counts above the lanes."""
    painter.fillRect(QRectF(0, 0, frame.width, frame.header), theme.color("ground"))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    _draw_counts(painter, frame, content.score, theme)
    painter.save()
    painter.setClipRect(QRectF(frame.left, 0, frame.width - frame.left, frame.header))
    if content.loop is not None:
        left, right = (max(frame.left, frame.x(time_s)) for time_s in content.loop)
        painter.fillRect(QRectF(left, 0, max(0.0, right - left), frame.header), theme.color("accent", 15))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _draw_chords(painter, frame, content.score, theme)
    _draw_phrases(painter, frame, content.score, theme)
    painter.restore()


def _visible(score: Score, frame: TabFrame) -> list[int]:
    """Notes that reach into the view; a held note is at most twelve seconds long."""
    first = score.first_after(frame.start_s - 12.0)
    last = score.first_after(frame.end_s + 30 * frame.scale / frame.px_per_s)  # a rake stands before its note
    start_s = frame.start_s - 40 * frame.scale / frame.px_per_s  # a tag may stand out beyond a short note
    return [index for index in range(first, last) if score.notes[index].offset_s >= start_s]


def _room(score: Score, visible: list[int], frame: TabFrame) -> list[float]:
    """Pixels from each visible note to the next one on its string."""
    following: dict[int, float] = {}
    room = []
    for index in reversed(visible):
        note = score.notes[index]
        room.append((following.get(note.string, note.onset_s + 9.0) - note.onset_s) * frame.px_per_s)
        following[note.string] = note.onset_s
    return room[::-1]


def _draw_lanes(painter: QPainter, frame: TabFrame, score: Score, theme: Theme) -> None:
    hair = QPen(theme.color("hairline"), 1)
    for string in range(1, frame.strings + 1):
        if string % 2:
            painter.fillRect(frame.lane(string), theme.color("lane"))
        painter.setPen(hair)
        for semitones in STEP_LINES:
            y = round(frame.y(string, semitones)) + 0.5
            painter.drawLine(QPointF(frame.left, y), QPointF(frame.width, y))
        painter.setPen(QPen(theme.color("line"), 1))
        y = round(frame.y(string)) + 0.5
        painter.drawLine(QPointF(frame.left, y), QPointF(frame.width, y))


def draw_names(painter: QPainter, frame: TabFrame, score: Score, theme: Theme, naming: Naming = USUAL) -> None:
    """The left margin: string numbers and letters, and what each hairline means."""
    painter.fillRect(QRectF(0, 0, frame.left, frame.height), theme.color("ground"))
    small = figure_font(frame.scale, size=0.72)
    for string in range(1, frame.strings + 1):
        if string % 2:
            painter.fillRect(QRectF(0, frame.lane(string).top(), frame.left, frame.lane_height), theme.color("lane"))
        painter.setFont(text_font(frame.scale, bold=True))
        painter.setPen(theme.color("ink"))
        box = QRectF(6 * frame.scale, frame.y(string) - 12 * frame.scale, 36 * frame.scale, 20 * frame.scale)
        label = f"{string} {string_letter(score.tuning, string, naming)}"
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, label)
        step_px = frame.y(string) - frame.y(string, 1.0)
        painter.setFont(small)
        painter.setPen(theme.color("soft_ink"))
        height = QFontMetricsF(small).height()
        apart = next((step for step in (1.0, 2.0, 4.0) if step * step_px >= 0.8 * height), None)
        for semitones in STEP_LINES:
            if apart is None or semitones % apart:
                continue
            y = frame.y(string, semitones)
            box = QRectF(frame.left - 26 * frame.scale, y - height / 2, 22 * frame.scale, height)
            name = bend_name(semitones, naming)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, name)


def _draw_loop(painter: QPainter, frame: TabFrame, content: TabContent, theme: Theme) -> None:
    if content.loop is None:
        return
    left, right = (max(frame.left, frame.x(time_s)) for time_s in content.loop)
    if right > left:
        painter.fillRect(QRectF(left, 0, right - left, frame.height), theme.color("accent", 15))
        painter.setPen(QPen(theme.color("accent"), 2))
        for edge in (left, right):
            painter.drawLine(QPointF(edge, 0), QPointF(edge, frame.height))


def _shown_beats(frame: TabFrame, score: Score) -> tuple[list[FeltBeat], float]:
    """The felt beats in view (seconds where no beat map is known) that have room, and pixels from beat to beat."""
    start_s = max(0.0, frame.start_s)
    if not score.beat_map.known:
        seconds = np.arange(np.ceil(start_s), frame.end_s)
        apart = frame.px_per_s
        return [FeltBeat(float(second), int(second), 1) for second in seconds[:: 1 if apart >= 3 else 32]], apart
    apart = 60.0 / (score.beat_map.tempo_bpm or 60.0) * frame.px_per_s
    crowded, every = apart < 14, 1 if apart >= 3 else 8
    return score.beat_map.beats_between(start_s, frame.end_s, bars_only=crowded, every=every), apart


def _draw_beat_lines(painter: QPainter, frame: TabFrame, score: Score, theme: Theme) -> None:
    strong, weak = QPen(theme.color("line", 150), 1), QPen(theme.color("line", 55), 1)
    for beat in _shown_beats(frame, score)[0]:
        x = round(frame.x(beat.time_s)) + 0.5
        if x >= frame.left:
            painter.setPen(strong if beat.beat == 1 else weak)
            painter.drawLine(QPointF(x, frame.header), QPointF(x, frame.height))


def _draw_counts(painter: QPainter, frame: TabFrame, score: Score, theme: Theme) -> None:
    """Bar numbers and counts; seconds where no beat map is known."""
    beats, apart = _shown_beats(frame, score)
    numbers, bold = figure_font(frame.scale, size=0.82), figure_font(frame.scale, size=0.82, bold=True)
    top = frame.header - 18 * frame.scale
    for beat in beats:
        x, first, bar = round(frame.x(beat.time_s)) + 0.5, beat.beat == 1, beat.bar
        if x < frame.left:
            continue
        if first:
            painter.setPen(QPen(theme.color("line", 150), 1))
            painter.drawLine(QPointF(x, top), QPointF(x, frame.header))
        if (apart >= 22 * frame.scale) or (first and apart * 4 >= 26 * frame.scale):
            numbered = first and (bar > 0 or not score.beat_map.known)  # what lies before bar 1 is only counted
            text = (f"bar {bar}" if apart >= 60 * frame.scale else str(bar)) if numbered else str(beat.beat)
            text += _what_begins(score, bar) if first else ""
            painter.setFont(bold if numbered else numbers)
            painter.setPen(theme.color("ink" if numbered else "soft_ink"))
            shown = text if score.beat_map.known else f"{bar} s"
            painter.drawText(QPointF(x + 4, frame.header - 5 * frame.scale), shown)


def _what_begins(score: Score, bar: int) -> str:
    """What begins with a bar: a meter, a swung or straight stretch."""
    beat_map = score.beat_map
    if not beat_map.known:
        return ""
    begins = [f" · {change.meter}" for change in beat_map.meters if change.bar == bar]
    start = beat_map.bar_start(bar)
    for swing in beat_map.swings:
        begins += [" · swing"] if abs(swing.start - start) < SLACK else []
        follows = any(abs(other.start - swing.end) < SLACK for other in beat_map.swings)
        begins += [" · straight"] if abs(swing.end - start) < SLACK and not follows else []
    return "".join(begins)


DOUBTFUL_CHORD = 0.8  # below it a chord shows how sure it is


def _draw_chords(painter: QPainter, frame: TabFrame, score: Score, theme: Theme) -> None:
    """Each chord by its name; one that was heard and is doubtful with a question mark and how sure it is."""
    font, small = text_font(frame.scale, size=1.1, bold=True), text_font(frame.scale, size=0.8)
    free = frame.left
    for number, chord in enumerate(score.chords):
        following = score.chords[number + 1].start_s if number + 1 < len(score.chords) else frame.end_s + 60
        if following <= frame.start_s or chord.start_s > frame.end_s:
            continue
        x = max(frame.x(chord.start_s), frame.left) + 4
        if x >= free:
            painter.setFont(font)
            painter.setPen(theme.color("ink"))
            painter.drawText(QPointF(x, 16 * frame.scale), chord.name)
            free = x + 26 * frame.scale
            if chord.certainty < DOUBTFUL_CHORD:
                text = f"? {chord.certainty:.0%}"
                x += QFontMetricsF(font).horizontalAdvance(chord.name) + 3
                painter.setFont(small)
                painter.setPen(theme.color("doubt"))
                painter.drawText(QPointF(x, 16 * frame.scale), text)
                free = x + QFontMetricsF(small).horizontalAdvance(text) + 6 * frame.scale


def _draw_phrases(painter: QPainter, frame: TabFrame, score: Score, theme: Theme) -> None:
    """A bracket over each phrase, its name inside."""
    metrics = QFontMetricsF(text_font(frame.scale, size=0.9))
    painter.setFont(text_font(frame.scale, size=0.9))
    y, foot = 25 * frame.scale, 40 * frame.scale
    brackets: list[QLineF] = []
    names: list[tuple[QPointF, str]] = []
    opening = {inside[0].id: section for section in score.sections if (inside := score.phrases_in(section))}
    for phrase in score.phrases:
        if phrase.end_s < frame.start_s or phrase.start_s > frame.end_s:
            continue
        left, right = frame.x(phrase.start_s), frame.x(phrase.end_s) - 2
        brackets += [QLineF(left, foot, left, y), QLineF(left, y, right, y), QLineF(right, y, right, foot - 8)]
        shown = max(left, frame.left)
        if right - shown >= LEAST_NAME_PX * frame.scale:
            section = opening.get(phrase.id)
            called = phrase.name if section is None else f"{section.name}: {phrase.name}"
            name = metrics.elidedText(called, Qt.TextElideMode.ElideRight, max(0.0, right - shown - 10))
            names.append((QPointF(shown + 6, foot - frame.scale), name))
    painter.setPen(QPen(theme.color("soft_ink"), 1.4))
    painter.drawLines(brackets)  # type: ignore[call-overload]
    for point, name in names:
        painter.drawText(point, name)


def _sketch_claims(painter: QPainter, frame: TabFrame, notes: list[Note], theme: Theme) -> None:
    """From afar: where each note is and how long, and how high it is bent; all in one stroke."""
    lines = [frame.y(string) for string in range(frame.strings + 1)]
    semitone = frame.y(1) - frame.y(1, 1.0)
    boxes = []
    for note in notes:
        rise = semitone * max(0.0, note.curve.peak_semitones)
        width = max(1.0, note.duration_s * frame.px_per_s)
        boxes.append(QRectF(frame.x(note.onset_s), lines[note.string] - rise - 2, width, rise + 4))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("claim", 110))
    painter.drawRects(boxes)  # type: ignore[call-overload]


def _sketch_tags(painter: QPainter, frame: TabFrame, notes: list[tuple[Note, float]], theme: Theme) -> None:
    """Where there is no room for a figure, a stroke at each onset; all at once."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("ink"))
    lines = [frame.y(string) for string in range(frame.strings + 1)]
    painter.drawRects(  # type: ignore[call-overload]
        [QRectF(frame.x(note.onset_s), lines[note.string] - 4, max(1.0, min(room - 1, 3.0)), 8) for note, room in notes]
    )


def _draw_claim(painter: QPainter, frame: TabFrame, note: Note, theme: Theme, naming: Naming) -> None:
    """A broad band where the tab says the pitch is; hatched when palm muted."""
    left, right = frame.x(note.onset_s), frame.x(note.offset_s)
    if right + END_PX < frame.left:
        return
    if note.curve.points or note.vibrato is not None:
        x = np.unique(np.concatenate([np.arange(left, right, 3.0), [right]]))
        times_s = (x - left) / frame.px_per_s
        semitones = note.deviation_at(times_s)
        y = frame.y(note.string, 0.0) - semitones * (frame.y(note.string, 0.0) - frame.y(note.string, 1.0))
    else:
        x, y = np.array([left, right]), np.full(2, frame.y(note.string))
    color = theme.color("claim", 110)
    if note.palm_muted:
        band = QRectF(left, frame.y(note.string) - CLAIM_PX / 2, right - left, CLAIM_PX)
        painter.fillRect(band, QBrush(theme.color("claim"), Qt.BrushStyle.DiagCrossPattern))
        return
    painter.setPen(QPen(color, CLAIM_PX, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.BevelJoin))
    painter.drawPolyline(polygon(x, y))
    _draw_end(painter, note, float(x[-1]), float(y[-1]), frame, theme)
    _draw_size(painter, note, frame, theme, naming)


def _draw_size(painter: QPainter, note: Note, frame: TabFrame, theme: Theme, naming: Naming) -> None:
    """The bend's written size, over its top."""
    size = note.reading.bend_semitones
    if not note.bent or frame.px_per_s < 25:
        return
    time_s = max(note.curve.points, key=lambda point: abs(point[1]))[0]
    painter.setFont(figure_font(frame.scale, size=0.85, bold=True))
    painter.setPen(theme.color("accent"))
    x = frame.x(note.onset_s + time_s)
    box = QRectF(x, frame.y(note.string, size) - 17 * frame.scale, 40 * frame.scale, 14 * frame.scale)
    painter.drawText(
        box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom, bend_name(size, naming, fret=note.fret)
    )


def _draw_end(painter: QPainter, note: Note, x: float, y: float, frame: TabFrame, theme: Theme) -> None:
    if note.end is End.CHOKED:
        painter.setPen(QPen(theme.color("ink"), 2.5))
        painter.drawLine(QPointF(x, y - 7), QPointF(x, y + 7))
    elif note.end is End.SLIDES_AWAY:
        painter.setPen(QPen(theme.color("claim"), 2))
        painter.drawLine(QPointF(x, y), QPointF(x + 12, y + 8))
    elif note.end is End.RINGS:
        painter.setPen(QPen(theme.color("claim"), 2, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x + 2, y), QPointF(x + 14, y))


def _draw_evidence(painter: QPainter, frame: TabFrame, content: TabContent, note: Note, theme: Theme) -> None:
    """A thin line where the recording's pitch was, measured from this note's fret."""
    width = note.duration_s * frame.px_per_s
    if frame.x(note.offset_s) < frame.left or width < SKETCH_PX:
        return
    under = evidence(content.score, note, content.measured)
    deviation = under.semitones
    deviation = np.where((deviation > 4.9) | (deviation < -1.45), np.nan, deviation)
    painter.setPen(QPen(theme.color("measured"), 1.0 if frame.px_per_s < 40 else 1.6))
    step = frame.y(note.string) - frame.y(note.string, 1.0)
    x = frame.x(note.onset_s) + under.times_s * frame.px_per_s
    # a leap belongs to the note before or after: it is left open, and scraps of it are left out
    breaks = ~(np.abs(np.diff(deviation)) < LEAP_SEMITONES)
    draw_unbroken(painter, x, frame.y(note.string) - deviation * step, breaks=breaks, shortest=3)


def tag_size(frame: TabFrame, text: str) -> tuple[float, float]:
    """Width and height of a fret's tag in pixels."""
    fit = tag_fit(frame)
    return (9 + 8 * len(text)) * frame.scale * fit + 3, 19 * frame.scale * fit


USUAL_OF_LANE, MOST_OF_LANE = 0.6, 0.9


def tag_fit(frame: TabFrame) -> float:
    """How far tags shrink so that a low lane still shows its curve; with larger text the figures come first."""
    share = min(MOST_OF_LANE, USUAL_OF_LANE * frame.scale)
    return min(1.0, share * frame.lane_height / (19 * frame.scale))


def tag_text(note: Note) -> str:
    return "×" if note.tone is Tone.DEAD else str(note.fret)


def _draw_tag(
    painter: QPainter,
    frame: TabFrame,
    note: Note,
    room: float,
    theme: Theme,
    *,
    selected: bool = False,
    strokes: bool = True,
) -> None:
    """The fret number on a tag with a notch at its onset."""
    x, y = frame.x(note.onset_s), frame.y(note.string)
    text = tag_text(note)
    width, height = tag_size(frame, text)
    if x < frame.left - width:
        return
    if room < 0.8 * width:
        _draw_small(painter, frame, text, x, y, room, theme, selected=selected)
        return
    edge = QPen(theme.color("accent" if selected else "ink"), 1.2)
    if note.garnish:
        edge.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(edge)
    painter.setBrush(theme.color("accent" if selected else "panel"))
    painter.drawPolygon(_tag_shape(note, x, y, width, height))
    painter.setPen(theme.color("on_accent" if selected else "ink"))
    painter.setFont(figure_font(frame.scale, size=0.98 * tag_fit(frame), bold=True))
    painter.drawText(QRectF(x + 3, y - height / 2, width - 3, height), Qt.AlignmentFlag.AlignCenter, text)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    _draw_marks_beside(painter, note, x + width + 1, y, height, frame, theme)
    if strokes and note.stroke is not None:
        _draw_stroke(painter, note.stroke, x + 3.4 * frame.scale, y - height / 2 - 2, frame, theme)


def _draw_attack_of(painter: QPainter, frame: TabFrame, note: Note, room: float, theme: Theme) -> None:
    """How a note is struck, under its tag or its bare number."""
    width, height = tag_size(frame, tag_text(note))
    x, y = frame.x(note.onset_s), frame.y(note.string)
    if x < frame.left - width:
        return
    if room < 0.8 * width:
        _draw_attack(painter, note, x - 4 * frame.scale, y + height / 2 - 3, frame, theme)
    else:
        _draw_attack(painter, note, x, y + height / 2, frame, theme)


def _draw_marks_beside(
    painter: QPainter, note: Note, x: float, y: float, height: float, frame: TabFrame, theme: Theme
) -> None:
    """Beside the tag: a doubt, a slip, a remark."""
    painter.setFont(figure_font(frame.scale, size=0.85, bold=True))
    if note.doubt:
        painter.setPen(theme.color("doubt"))
        painter.drawText(QPointF(x, y - 2 * frame.scale), "?")
    if note.slip:  # the figure is struck through: played, but not meant
        painter.setPen(QPen(theme.color("doubt"), 1.6))
        painter.drawLine(QPointF(x - 1, y - height / 2), QPointF(x - 1 - height * 0.9, y + height / 2))
    if note.remark:
        painter.setPen(QPen(theme.color("accent"), 1.6))
        painter.drawLine(QPointF(x, y + height / 2 - 1), QPointF(x + 6 * frame.scale, y + height / 2 - 1))
        painter.drawLine(QPointF(x, y + height / 2 - 4), QPointF(x + 6 * frame.scale, y + height / 2 - 4))


def _draw_stroke(painter: QPainter, stroke: PickStroke, x: float, base: float, frame: TabFrame, theme: Theme) -> None:
    """A tooth over the tag's left corner that points the way the pick goes."""
    size, down = 3.4 * frame.scale, stroke is PickStroke.DOWN
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("soft_ink"))
    painter.drawPolygon(_wedge(x, base - 2 * size if down else base, base if down else base - 2 * size, size))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _draw_small(
    painter: QPainter,
    frame: TabFrame,
    text: str,
    x: float,
    y: float,
    room: float,
    theme: Theme,
    *,
    selected: bool,
) -> None:
    """Where notes crowd, the bare number; where even that has no room, a stroke."""
    font = figure_font(frame.scale, size=0.78, bold=True)
    width = QFontMetricsF(font).horizontalAdvance(text)
    painter.setPen(theme.color("on_accent" if selected else "ink"))
    if room < width + 1.5:
        high = 8 if selected else 4
        stroke = QRectF(x, y - high, max(2.0, min(room - 1, 4)), 2 * high)
        painter.fillRect(stroke, theme.color("accent" if selected else "ink"))
        return
    painter.setFont(font)
    box = QRectF(x, y - 7.5 * frame.scale, width + 1, 15 * frame.scale)
    painter.fillRect(box, theme.color("accent") if selected else theme.color("panel", 215))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def _tag_shape(note: Note, x: float, y: float, width: float, height: float) -> QPolygonF:
    """A plate with a notch cut into its left edge; a harmonic's runs out in a point."""
    top, bottom, right = y - height / 2, y + height / 2, x + width
    points = [QPointF(x, top), QPointF(right, top), QPointF(right, bottom), QPointF(x, bottom), QPointF(x + 4, y)]
    if note.tone in (Tone.NATURAL_HARMONIC, Tone.TAPPED_HARMONIC, Tone.SQUEAL_HARMONIC):
        points.insert(2, QPointF(right + 6, y))
    if note.tone is Tone.SQUEAL_HARMONIC:
        points[2:3] = [QPointF(right + 6, y - height / 4), QPointF(right, y), QPointF(right + 6, y + height / 4)]
    return QPolygonF(points)


def _draw_attack(painter: QPainter, note: Note, x: float, y: float, frame: TabFrame, theme: Theme) -> None:
    """Under the tag: wedges up for hammered, down for pulled, two for tapped; a ring for re-picked.

    Before it a ramp for slid into, dotted where that comes from no fret.
    """
    ink, size = theme.color("ink"), 4.5 * frame.scale
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    middle = x + 8 * frame.scale
    if note.attack in (Attack.HAMMER, Attack.TAP):
        for shift in (0.0, 2.2 * size) if note.attack is Attack.TAP else (0.0,):
            painter.drawPolygon(_wedge(middle + shift, y + 2 + size, y + 2, size))
    elif note.attack is Attack.PULL:
        painter.drawPolygon(_wedge(middle, y + 2, y + 2 + size, size))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(ink, 1.6))
    if note.attack is Attack.SLIDE or note.slid_in:
        if note.slid_in:  # from no fret: its beginning is open
            painter.setPen(QPen(ink, 1.6, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x - 11 * frame.scale, y + 1), QPointF(x - 1, y - 8 * frame.scale))
        painter.setPen(QPen(ink, 1.6))
    elif note.attack is Attack.REPICK:
        painter.drawEllipse(QPointF(middle, y + 2 + size / 2), size / 2, size / 2)
    elif note.attack is Attack.SWELL:
        painter.drawPolyline(QPolygonF([QPointF(x + 14, y + 1), QPointF(x + 2, y + 4), QPointF(x + 14, y + 7)]))
    if note.raked:
        for step in (1, 2, 3):
            at = x - 4 * step
            painter.drawLine(QPointF(at - 3, y - 4), QPointF(at, y - 13))


def _wedge(x: float, base: float, tip: float, size: float) -> QPolygonF:
    return QPolygonF([QPointF(x - size, base), QPointF(x + size, base), QPointF(x, tip)])
