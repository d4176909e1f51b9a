"""The commands of the Play menu."""

from functools import partial

from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.preconditions import Preconditions
from notcher.ui.playback.player import Player
from notcher.ui.playback.sources import PlaybackSource, Sources
from notcher.ui.playback.transport import Transport

SOURCE_KEYS = {
    PlaybackSource.RECORDING: "F5",
    PlaybackSource.TAB: "F6",
    PlaybackSource.BOTH: "F7",
    PlaybackSource.BAND: "Shift+F4",
    PlaybackSource.MIX: "F4",
}


def playback_commands(
    player: Player, transport: Transport, sources: Sources, preconditions: Preconditions
) -> list[Command]:
    """Return what is done with the transport."""
    commands = [
        Command("play.toggle", player.toggle, "Space", hands_free=True),
        Command("loop.toggle", transport.toggle_loop, "L", hands_free=True),
        Command("pace.slower", lambda: transport.change_pace(-1), "Ctrl+Down", hands_free=True),
        Command("pace.faster", lambda: transport.change_pace(1), "Ctrl+Up", hands_free=True),
        Command("count_in.toggle", lambda: player.set_count_in(not player.count_in), "Ctrl+E",
                checked=lambda: player.count_in),
        Command("pitch.higher", lambda: transport.move_pitch(1.0), "Ctrl+F6"),
        Command("pitch.lower", lambda: transport.move_pitch(-1.0), "Ctrl+F5"),
        Command("pitch.finer_higher", lambda: transport.move_pitch(0.05), "Shift+F6"),
        Command("pitch.finer_lower", lambda: transport.move_pitch(-0.05), "Shift+F5"),
        Command("pitch.meet", transport.meet_guitar, "Ctrl+F7"),
        Command("play.seek_note", transport.seek_note, "Return", Scope.TAB, (preconditions.note,)),
        Command("play.selection", sources.play_selection, "Shift+Space", Scope.TAB, (preconditions.note,)),
    ]  # fmt: skip
    commands += _playhead(transport, preconditions)
    for source, keys in SOURCE_KEYS.items():
        choose, chosen = sources.choosing(source)
        needed = {
            PlaybackSource.TAB: (preconditions.notes,),
            PlaybackSource.BAND: (sources.band_need,),
            PlaybackSource.MIX: (),
        }.get(source, (preconditions.recording,))
        command = Command(f"source.{source}", choose, keys, preconditions=needed, checked=chosen)  # fmt: skip
        commands.append(command)
    return commands


def _playhead(transport: Transport, preconditions: Preconditions) -> list[Command]:
    """Return what moves the playhead."""
    notes, beats = (preconditions.notes,), (preconditions.beats,)
    rows = (
        ("note", transport.to_note, "Left", "Right", notes),
        ("beat", transport.to_beat, ",", ".", beats),
        ("bar", transport.to_bar, "PgUp", "PgDown", beats),
    )
    commands = []
    for name, move, back, on, needed in rows:
        for step, way, key in ((1, "next", on), (-1, "previous", back)):
            commands.append(
                Command(f"playhead.{way}_{name}", partial(move, step), f"Alt+{key}", preconditions=needed)
            )  # fmt: skip
    return [
        *commands,
        Command("playhead.later", lambda: transport.move(0.1), "Alt+Shift+Right"),
        Command("playhead.earlier", lambda: transport.move(-0.1), "Alt+Shift+Left"),
    ]  # fmt: skip
