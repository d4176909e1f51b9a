"""The commands of the Shapes bench."""

from notcher.ui.benches.shapes.comparing import Comparing
from notcher.ui.benches.shapes.shapes_bench import ShapesBench
from notcher.ui.commands.command import Command, Scope
from notcher.ui.commands.preconditions import Preconditions
from notcher.ui.state.meaning import Meaning

OTHER = "Play/Another version"


def shapes_commands(
    shapes: ShapesBench, meaning: Meaning, comparing: Comparing, preconditions: Preconditions
) -> list[Command]:
    """Return what is done with a chosen playing, with a note that comes again, and with another version."""
    chosen, page = (shapes.chosen_need,), shapes.versions
    other = (page.need_difference,)
    return [
        Command("shapes.pdf", shapes.ask_pdf, preconditions=(shapes.chosen_need,)),
        Command("shapes.notes", shapes.show_notes, "Return", Scope.SHAPES, chosen),
        Command("shapes.both", shapes.play_both, "B", Scope.SHAPES, chosen),
        Command("section.propose", meaning.propose_sections, "Ctrl+Alt+S", Scope.TAB, (meaning.sections_need,)),
        Command("shapes.elsewhere", meaning.correct_elsewhere, "Ctrl+Alt+G", Scope.TAB, (meaning.elsewhere_need,)),
        Command("versions.compare", comparing.ask, "Ctrl+Alt+O", preconditions=(preconditions.notes,)),
        Command("versions.next", lambda: page.step(1), "N", Scope.VERSIONS, other),
        Command("versions.previous", lambda: page.step(-1), "Shift+N", Scope.VERSIONS, other),
        Command("versions.both", page.hear_both, "Return", Scope.VERSIONS, other),
        Command("versions.here", page.hear_here, "1", Scope.VERSIONS, other),
        Command("versions.there", page.hear_there, "2", Scope.VERSIONS, other),
        Command("versions.note", page.show_note, "Ctrl+Return", Scope.VERSIONS, other),
        Command("versions.close", shapes.show_shapes, "Backspace", Scope.VERSIONS),
    ]  # fmt: skip
