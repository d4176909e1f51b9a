"""The tab's lanes in tiles that are drawn once and laid side by side: panning draws only what comes into view."""

import math
import time
from dataclasses import replace

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPixmap

from notcher.core.score import Score
from notcher.painting.tab_frame import TabFrame
from notcher.painting.tab_picture import TabContent, draw_lanes
from notcher.painting.theme import Theme

TILE_PX = 96  # a note's change repaints one or two
MOST_TILES = 192  # six screens of 3,000 px
BUDGET_S, EDIT_BUDGET_S = 0.004, 0.012  # for drawing tiles in one frame: while the view moves; after an edit
MARGIN_PX = 40.0  # a tag, a size or a rake may stand out so far from its note


class TabTiles:
    """Keeps tiles of one scale; an edit drops only the tiles whose notes changed."""

    def __init__(self) -> None:
        self._tiles: dict[int, QPixmap] = {}
        self._look: tuple[object, ...] = ()
        self._content: TabContent | None = None
        self._frame: TabFrame | None = None
        self._old: tuple[TabFrame, dict[int, QPixmap]] | None = None
        self._stale: set[int] = set()  # numbers of tiles that an edit has changed

    def drop(self) -> None:
        """Forget everything."""
        self._tiles.clear()
        self._stale.clear()
        self._old = None

    def paint(
        self, painter: QPainter, frame: TabFrame, content: TabContent, theme: Theme, ratio: float, *, patient: bool
    ) -> bool:
        """Lay the tiles of a view; return whether all of them were sharp.

        patient: draw every missing tile however long it takes; otherwise those that do not fit into the frame's time
        are shown stretched from the scale before, and want another paint. Nothing is left empty: what was not in view
        before is drawn in one go. Tiles that an edit has changed are
        shown as they were until there is time for them.
        """
        self._take(frame, content, theme, ratio)
        px_per_s, sharp = frame.px_per_s, True
        first = math.floor((frame.start_s * px_per_s) / TILE_PX)
        last = math.floor((frame.end_s * px_per_s) / TILE_PX)
        begun = time.perf_counter()
        until, edits_until = begun + BUDGET_S, begun + EDIT_BUDGET_S
        painter.save()
        painter.setClipRect(QRectF(frame.left, frame.header, frame.width - frame.left, frame.height - frame.header))
        for number in range(first, last + 1):
            x = frame.left + number * TILE_PX - frame.start_s * px_per_s
            tile = self._tiles.get(number)
            stale = number in self._stale
            if stale:
                wanted = time.perf_counter() < edits_until
                sharp &= wanted
            else:
                wanted = tile is None and (
                    patient or time.perf_counter() < until or not self._covered(number, px_per_s)
                )
            if wanted:
                tile = self._tiles[number] = self._drawn(number, frame, content, theme, ratio)
                self._stale.discard(number)
            if tile is None:
                sharp = False
                self._paint_old(painter, frame, number, x, theme)
            else:
                painter.drawPixmap(round(x), round(frame.header), tile)
        painter.restore()
        while len(self._tiles) > MOST_TILES:
            middle = (first + last) / 2
            furthest = max(self._tiles, key=lambda number: abs(number - middle))
            del self._tiles[furthest]
            self._stale.discard(furthest)
        if sharp:
            self._old = None
        return sharp

    def _take(self, frame: TabFrame, content: TabContent, theme: Theme, ratio: float) -> None:
        """Drop what no longer fits the view."""
        look = (frame.px_per_s, frame.height, frame.scale, frame.strings, theme, ratio, content.strokes, content.naming)
        before = self._content
        if look != self._look:
            if self._frame is not None and self._look and look[1:] == self._look[1:] and self._tiles:
                self._old = (self._frame, self._tiles)
            self._tiles, self._stale = {}, set()
        elif before is not None and content.measured is not before.measured:
            self.drop()
        elif before is not None and content.score is not before.score:
            self._drop_changed(before.score, content.score, frame.px_per_s)
        self._look, self._content, self._frame = look, content, frame

    def _drop_changed(self, before: Score, after: Score, px_per_s: float) -> None:
        if before.beat_map != after.beat_map or before.tuning != after.tuning:
            self.drop()
            return
        old, new = set(map(id, before.notes)), set(map(id, after.notes))
        changed = [note for note in before.notes if id(note) not in new]
        changed += [note for note in after.notes if id(note) not in old]
        stale: set[int] = set()
        for note in changed:
            # the tag of a note just before it has more or less room now
            first = math.floor((note.onset_s * px_per_s - MARGIN_PX) / TILE_PX)
            last = math.floor((note.offset_s * px_per_s + MARGIN_PX) / TILE_PX)
            stale.update(range(first, last + 1))
        self._stale |= stale & self._tiles.keys()

    def _drawn(self, number: int, frame: TabFrame, content: TabContent, theme: Theme, ratio: float) -> QPixmap:
        height = frame.height - frame.header
        tile = QPixmap(round(TILE_PX * ratio), round(height * ratio))
        tile.setDevicePixelRatio(ratio)
        painter = QPainter(tile)
        painter.translate(0, -frame.header)
        start_s = number * TILE_PX / frame.px_per_s
        draw_lanes(painter, replace(frame, width=float(TILE_PX), start_s=start_s, margin=0.0), content, theme)
        painter.end()
        return tile

    def _covered(self, number: int, px_per_s: float) -> bool:
        """Whether the tiles of the scale before show all of a tile's time."""
        if self._old is None:
            return False
        old, tiles = self._old
        share = old.px_per_s / px_per_s
        first, last = math.floor(number * share), math.ceil((number + 1) * share) - 1
        return all(at in tiles for at in range(first, last + 1))

    def _paint_old(self, painter: QPainter, frame: TabFrame, number: int, x: float, theme: Theme) -> None:
        """Fill a tile's place from the tiles of the scale before, stretched."""
        painter.fillRect(QRectF(x, frame.header, TILE_PX, frame.height - frame.header), theme.color("ground"))
        if self._old is None:
            return
        old, tiles = self._old
        stretch = frame.px_per_s / old.px_per_s
        for at, tile in tiles.items():
            left = x + (at * stretch - number) * TILE_PX
            if left < x + TILE_PX and left + TILE_PX * stretch > x:
                target = QRectF(left, frame.header, TILE_PX * stretch, frame.height - frame.header)
                painter.drawPixmap(target, tile, QRectF(tile.rect()))
