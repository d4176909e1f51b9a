"""The commands of the Play menu."""

from functools import partial

from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.preconditions import Preconditions
from notcher.ui.playback.player import Player
from notcher.ui.playback.sources import PlaybackSource, Sources
from notcher.ui.playback.transport import Transport

SOURCES = (
    (PlaybackSource.RECORDING, "Play the recording", "F5", "hear original sound"),
    (PlaybackSource.TAB, "Play the tab", "F6", "hear notes synthesizer midi sound"),
    (PlaybackSource.BOTH, "Play the recording left, the tab right", "F7", "hear both compare stereo sides"),
    (PlaybackSource.BAND, "Play the band", "Shift+F4", "hear backing track chords accompaniment jam play along"),
    (
        PlaybackSource.MIX,
        "Play all that is not silent together",
        "F4",
        "mix band click recording tab play along volumes",
    ),
)


def playback_commands(
    player: Player, transport: Transport, sources: Sources, preconditions: Preconditions
) -> list[Command]:
    """Return what is done with the transport."""
    commands = [
        Command("play.toggle", "Play or stop", player.toggle, "Play", "Space", "start pause halt", hands_free=True),
        Command("loop.toggle", "Loop the phrase, or stop looping", transport.toggle_loop, "Play", "L",
                "repeat cycle again round", hands_free=True),
        Command("pace.slower", "Slower", lambda: transport.change_pace(-1), "Play", "Ctrl+Down",
                "tempo speed slow down pace", hands_free=True),
        Command("pace.faster", "Faster", lambda: transport.change_pace(1), "Play", "Ctrl+Up",
                "tempo speed up pace", hands_free=True),
        Command("count_in.toggle", "Count-in", lambda: player.set_count_in(not player.count_in), "Play", "Ctrl+E",
                "metronome click lead in", checked=lambda: player.count_in),
        Command("pitch.higher", "Sound half a step higher", lambda: transport.move_pitch(1.0),
                "Play/Pitch of the sound", "Ctrl+F6", "transpose tune up capo"),
        Command("pitch.lower", "Sound half a step lower", lambda: transport.move_pitch(-1.0), "Play/Pitch of the sound",
                "Ctrl+F5", "transpose tune down"),
        Command("pitch.finer_higher", "Sound five cents higher", lambda: transport.move_pitch(0.05),
                "Play/Pitch of the sound", "Shift+F6", "fine tune up"),
        Command("pitch.finer_lower", "Sound five cents lower", lambda: transport.move_pitch(-0.05),
                "Play/Pitch of the sound", "Shift+F5", "fine tune down"),
        Command("pitch.meet", "Let the sound meet a guitar in standard tuning, or as recorded", transport.meet_guitar,
                "Play/Pitch of the sound", "Ctrl+F7", "concert pitch cents tape off half step down student"),
        Command("play.seek_note", "Playhead to the selected note", transport.seek_note, "Play", "Return",
                "go to position cursor", Scope.TAB, (preconditions.note,)),
        Command("play.selection", "Play the selected notes", sources.play_selection, "Play", "Shift+Space",
                "hear listen note once", Scope.TAB, (preconditions.note,)),
    ]  # fmt: skip
    commands += _playhead(transport, preconditions)
    for source, label, keys, words in SOURCES:
        choose, chosen = sources.choosing(source)
        needed = {
            PlaybackSource.TAB: (preconditions.notes,),
            PlaybackSource.BAND: (sources.band_need,),
            PlaybackSource.MIX: (),
        }.get(source, (preconditions.recording,))
        command = Command(
            f"source.{source}", label, choose, "Play", keys, words, preconditions=needed, checked=chosen,
            separated=source is PlaybackSource.RECORDING,
        )  # fmt: skip
        commands.append(command)
    return commands


def _playhead(transport: Transport, preconditions: Preconditions) -> list[Command]:
    """Return what moves the playhead."""
    notes, beats = (preconditions.notes,), (preconditions.beats,)
    rows = (
        ("note", "note", transport.to_note, "Left", "Right", "onset", notes),
        ("beat", "beat", transport.to_beat, ",", ".", "count", beats),
        ("bar", "bar", transport.to_bar, "PgUp", "PgDown", "measure", beats),
    )
    commands = []
    for name, what, move, back, on, words, needed in rows:
        for step, way, key in ((1, "next", on), (-1, "previous", back)):
            commands.append(
                Command(f"playhead.{way}_{name}", f"Playhead to the {way} {what}", partial(move, step),
                        "Play/Playhead", f"Alt+{key}", f"go position cursor {words}", preconditions=needed)
            )  # fmt: skip
    return [
        *commands,
        Command("playhead.later", "Playhead a tenth of a second later", lambda: transport.move(0.1), "Play/Playhead",
                "Alt+Shift+Right", "go position cursor forward"),
        Command("playhead.earlier", "Playhead a tenth of a second earlier", lambda: transport.move(-0.1),
                "Play/Playhead", "Alt+Shift+Left", "go position cursor back"),
    ]  # fmt: skip
