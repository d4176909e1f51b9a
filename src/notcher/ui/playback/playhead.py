"""Where the playhead is shown: gliding with what sounds, or standing on each beat where motion is unwanted."""

from PyQt6.QtCore import QObject, pyqtSignal

from notcher.ui.playback.player import Player
from notcher.ui.state.session import Session


class Playhead(QObject):
    """Stands between what plays and the views that show when. moved: where the playhead is seen, seconds."""

    moved = pyqtSignal(float)

    def __init__(self, session: Session, player: Player, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._player = session, player
        self._shown_s = -1.0
        self.still = False
        player.moved.connect(lambda time_s: self.go(time_s, sounding=player.playing))

    def go(self, time_s: float, *, sounding: bool = True) -> None:
        """Take when something sounds, or where the playhead was put."""
        if self.still and sounding:
            time_s = self._session.score.beat_or_note_start(time_s)
            if time_s == self._shown_s:
                return
        self._shown_s = time_s
        self.moved.emit(time_s)
