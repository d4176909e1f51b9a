"""The Shapes bench in its place."""

from dataclasses import dataclass

from notcher.ui.benches.context import Context, Installed
from notcher.ui.benches.shapes.commands import shapes_commands
from notcher.ui.benches.shapes.comparing import Comparing
from notcher.ui.benches.shapes.shapes_bench import ShapesBench
from notcher.ui.benches.shapes.versions_page import OtherVersion
from notcher.ui.commands.command import Scope
from notcher.ui.state.shell import Bench


@dataclass(slots=True, kw_only=True)
class Shapes(Installed):
    bench: ShapesBench
    comparing: Comparing


def install(context: Context) -> Shapes:
    """Build the bench and connect it."""
    bench, requests = ShapesBench(context.session, context.meaning), context.requests

    def show_version(version: OtherVersion) -> None:
        """Bring another version to the front, beside the open solo."""
        bench.show_version(version)
        context.shell.show_bench(Bench.SHAPES)

    comparing = Comparing(context.session, context.sources, context.shell, show_version, context.parent)
    bench.notice.connect(context.shell.notice)
    bench.notes_requested.connect(requests.notes)
    bench.both_requested.connect(context.sources.play_in_turn)
    bench.versions.hear_requested.connect(comparing.hear)
    bench.versions.note_requested.connect(requests.note)
    context.session.opened.connect(bench.show_shapes)
    return Shapes(
        bench=bench,
        comparing=comparing,
        widget=bench,
        focus=bench.pages,
        commands=shapes_commands(bench, context.meaning, comparing, context.preconditions),
        scopes={Scope.SHAPES: bench.shapes_page, Scope.VERSIONS: bench.versions},
        themed=(bench,),
        named=(bench,),
        leave_page=bench.leave_page,
    )
