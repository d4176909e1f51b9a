"""The Prove bench in its place."""

from dataclasses import dataclass

from notcher.ui.benches.context import Context, Installed
from notcher.ui.benches.prove.commands import prove_commands
from notcher.ui.benches.prove.prove_bench import ProveBench
from notcher.ui.commands.command import Scope


@dataclass(slots=True, kw_only=True)
class Prove(Installed):
    bench: ProveBench


def install(context: Context) -> Prove:
    """Build the bench and connect it."""
    bench = ProveBench(context.session, context.jobs)
    bench.notice.connect(context.shell.notice)
    bench.play_requested.connect(context.sources.play_stretch)
    bench.analysis_requested.connect(context.requests.analysis)
    return Prove(
        bench=bench,
        widget=bench,
        focus=bench.list,
        commands=prove_commands(bench),
        scopes={Scope.PROVE: bench},
        themed=(bench,),
        named=(bench,),
        shown=lambda: context.session.show_variant(""),  # what is held against the recording is the original
        stop=bench.stop,
    )
