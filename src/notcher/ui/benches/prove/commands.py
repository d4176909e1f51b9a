"""The commands of the list of doubts."""

from notcher.ui.benches.prove.prove_bench import ProveBench
from notcher.ui.commands.command import Command, Scope


def prove_commands(prove: ProveBench) -> list[Command]:
    """Return what is done with the chosen row."""
    row = (prove.row_need,)
    return [
        Command("prove.compare", prove.compare, preconditions=(prove.compare_need,)),
        Command("prove.play", prove.play, "Return", Scope.PROVE, row),
        Command("prove.correct", prove.correct, "C", Scope.PROVE, row),
        Command("prove.slip", prove.mark_slip, "P", Scope.PROVE, (prove.written_need,)),
        Command("prove.checked", prove.mark_checked, "K", Scope.PROVE, row),
        Command("prove.phrase", prove.mark_phrase, "Shift+K", Scope.PROVE, (prove.phrase_need,)),
    ]  # fmt: skip
