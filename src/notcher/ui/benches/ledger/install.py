"""The Ledger bench in its place, with the choice of who is taught and the catalogue of licks beside the benches."""

from dataclasses import dataclass

from notcher.ui.benches.context import Context, Installed
from notcher.ui.benches.ledger.catalogue_panel import CataloguePanel
from notcher.ui.benches.ledger.commands import catalogue_commands, ledger_commands
from notcher.ui.benches.ledger.ledger_bench import LedgerBench
from notcher.ui.benches.ledger.ledger_controller import LedgerController
from notcher.ui.benches.ledger.student_choice import StudentChoice
from notcher.ui.commands.command import Scope


@dataclass(slots=True, kw_only=True)
class LedgerParts(Installed):
    bench: LedgerBench
    desk: LedgerController
    students: StudentChoice
    catalogue: CataloguePanel


def install(context: Context) -> LedgerParts:
    """Build the bench and what works for it, and connect them."""
    session, ledger, shell, parent = context.session, context.ledger, context.shell, context.parent
    requests, settings = context.requests, context.settings
    bench = LedgerBench(session, ledger, context.today)
    desk = LedgerController(session, ledger, bench, settings, shell, context.today, parent)
    students = StudentChoice(ledger, shell, parent)
    catalogue = CataloguePanel(session, context.jobs, shell, ledger, parent)
    ledger.notice.connect(shell.notice)
    ledger.damaged.connect(desk.offer_mending)
    bench.command_requested.connect(context.commands.run)
    desk.open_requested.connect(requests.open_at)
    desk.recording_requested.connect(requests.open_path)
    desk.file_requested.connect(requests.file)
    desk.replaced.connect(catalogue.close_ledger)
    catalogue.hear_requested.connect(context.sources.play_scores)
    catalogue.drop_requested.connect(requests.lick)
    catalogue.open_requested.connect(requests.open_at)
    return LedgerParts(
        bench=bench,
        desk=desk,
        students=students,
        catalogue=catalogue,
        widget=bench,
        focus=bench,
        commands=[*ledger_commands(bench, desk, students), *catalogue_commands(catalogue, context.preconditions)],
        scopes={Scope.LEDGER: bench, Scope.CATALOGUE: catalogue},
        themed=(bench, catalogue),
        named=(bench, catalogue),
        shown=ledger.read_again,
        stop=catalogue.close_ledger,
    )
