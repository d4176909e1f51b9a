"""The commands of the Hear bench."""

from collections.abc import Callable

from notcher.ui.benches.hear.hear_bench import HearBench
from notcher.ui.commands.command import Command
from notcher.ui.commands.preconditions import Preconditions


def hear_commands(
    hear: HearBench, tap: Callable[[], None], ask_tuning: Callable[[], None], preconditions: Preconditions
) -> list[Command]:
    """Return what is done to the analysis. tap: takes one tap of the beat. ask_tuning: asks for tuning and capo."""
    return [
        Command("beat.tap", "Tap the beat", tap, "Time", ";", "pulse tempo bpm meter count", separated=True),
        Command("tuning.choose", "Tuning and capo…", ask_tuning, "Place", "Ctrl+Shift+T",
                "drop d dadgad half step down retune open strings seven eight string guitar neck", separated=True),
        Command("draft.again", "Draft the tab again", lambda: hear.draft_requested.emit(), "Edit", "",
                "transcribe analyse draft notes listen", preconditions=(preconditions.recording,), separated=True),
        Command("hints.forget", "Forget the boxes around the lead", hear.forget_hints, "Edit", "", "steer hints clear",
                preconditions=(lambda: "" if hear.hints else "No hint was given yet.",)),
    ]  # fmt: skip
