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
        Command("beat.tap", tap, ";"),
        Command("tuning.choose", ask_tuning, "Ctrl+Shift+T"),
        Command("draft.again", lambda: hear.draft_requested.emit(), preconditions=(preconditions.recording,)),
        Command("hints.forget", hear.forget_hints,
                preconditions=(lambda: "" if hear.hints else "No hint was given yet.",)),
    ]  # fmt: skip
