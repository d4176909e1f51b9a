"""The commands of the list of doubts."""

from notcher.ui.benches.prove.prove_bench import ProveBench
from notcher.ui.commands.command import Command, Scope


def prove_commands(prove: ProveBench) -> list[Command]:
    """Return what is done with the chosen row."""
    row = (prove.row_need,)
    return [
        Command("prove.play", "Play the doubt", prove.play, "Play", "Return", "hear listen finding", Scope.PROVE, row),
        Command("prove.correct", "Correct the finding", prove.correct, "Note", "C", "fix write heard", Scope.PROVE, row,
                separated=True),
        Command("prove.slip", "The finding is the player's slip", prove.mark_slip, "Note", "P", "mistake excuse",
                Scope.PROVE, (prove.written_need,)),
        Command("prove.checked", "The finding is checked, or not the solo's", prove.mark_checked, "Note", "K",
                "confirm right ok accept exclude", Scope.PROVE, row),
        Command("prove.phrase", "The phrase is proved: I have held it against the recording", prove.mark_phrase, "Note",
                "Shift+K", "all right done whole phrase looked", Scope.PROVE, (prove.phrase_need,)),
    ]  # fmt: skip
