"""The Sheets bench in its place."""

from dataclasses import dataclass

from notcher.ui.benches.context import Context, Installed
from notcher.ui.benches.sheets.commands import sheets_commands
from notcher.ui.benches.sheets.pack_controller import PackController
from notcher.ui.benches.sheets.sheets_bench import SheetsBench
from notcher.ui.benches.sheets.sheets_controller import SheetsController
from notcher.ui.commands.command import Scope


@dataclass(slots=True, kw_only=True)
class Sheets(Installed):
    bench: SheetsBench
    desk: SheetsController
    packs: PackController


def install(context: Context) -> Sheets:
    """Build the bench and connect it."""
    bench, shell, parent = SheetsBench(), context.shell, context.parent
    desk = SheetsController(context.session, context.ledger, bench, context.jobs, shell, parent)
    packs = PackController(context.session, context.ledger, context.settings, shell, parent, context.phrases_in_hand)
    bench.pack_button.clicked.connect(lambda: context.commands.run("pack.make"))

    def shown() -> None:
        context.ledger.read_again()
        desk.show()

    return Sheets(
        bench=bench,
        desk=desk,
        packs=packs,
        widget=bench,
        focus=bench.view,
        commands=sheets_commands(bench, desk, packs, context.preconditions),
        scopes={Scope.SHEETS: bench},
        themed=(bench,),
        named=(desk, packs),
        shown=shown,
    )
