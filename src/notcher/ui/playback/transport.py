"""What the transport's keys and buttons do: loop the phrase, change the pace, go to the note."""

from notcher.ui.playback.player import Player
from notcher.ui.state.session import Session
from notcher.ui.state.shell import Shell

SLOWEST, FASTEST, STEP = 0.25, 1.5, 0.05


class Transport:
    """Stands between the selection and the player."""

    def __init__(self, session: Session, player: Player, shell: Shell) -> None:
        self._session, self._player, self._shell = session, player, shell

    def toggle_loop(self) -> None:
        if self._player.loop_span is not None:
            self._player.set_loop(None)
        else:
            self.loop_phrase()

    def loop_phrase(self) -> None:
        """Loop the selected note's phrase, or the one at the playhead."""
        phrase = self._session.phrase or self._session.score.phrase_at(self._player.time_s)
        if phrase is None:
            self._shell.notice("No phrase lies here. Drag over the reel to mark what to loop.")
            return
        self._player.set_loop((phrase.start_s, phrase.end_s))

    def change_pace(self, steps: int) -> None:
        """Go faster by so many steps, or slower by a negative number."""
        self._player.set_pace(min(FASTEST, max(SLOWEST, round(self._player.pace + steps * STEP, 2))))

    def play_at(self, start_s: float, end_s: float, pace: float) -> None:
        """Loop a stretch at a pace."""
        self._player.set_pace(pace)
        self._player.set_loop((start_s, end_s))
        self._player.play()

    def seek_note(self) -> None:
        """Put the playhead to the selected note."""
        note = self._session.note
        if note is not None:
            self._player.seek(note.onset_s)
