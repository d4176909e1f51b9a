"""The Hear bench in its place."""

import time
from dataclasses import dataclass

from notcher.ui.benches.context import Context, Installed
from notcher.ui.benches.hear.commands import hear_commands
from notcher.ui.benches.hear.hear_bench import HearBench
from notcher.ui.benches.hear.tuning_dialog import ask_tuning


@dataclass(slots=True, kw_only=True)
class Hear(Installed):
    bench: HearBench


def install(context: Context) -> Hear:
    """Build the bench and connect it."""
    bench, player = HearBench(context.session), context.player

    def tap() -> None:
        """Take a tap of the beat, along with what plays or in silence."""
        along = player.playing
        text = bench.tap(player.time_s if along else time.monotonic(), along=along)
        if not bench.isVisible():  # where it would be read
            context.shell.notice(text)

    def ask() -> None:
        ask_tuning(context)

    bench.tap_requested.connect(tap)
    bench.tuning_requested.connect(ask)
    bench.picture.seek_requested.connect(context.shell.seek)
    context.playhead.moved.connect(bench.picture.show_playhead)
    return Hear(
        bench=bench,
        widget=bench,
        focus=bench.focus_box,
        commands=hear_commands(bench, tap, ask, context.preconditions),
        themed=(bench,),
        named=(bench,),
        shown=lambda: context.session.show_variant(""),  # what is held against the recording is the original
    )
