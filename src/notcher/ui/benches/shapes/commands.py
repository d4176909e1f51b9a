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
        Command("shapes.pdf", "Shapes as a PDF…", shapes.ask_pdf, "File/Write as", "",
                "print pages export what comes again", preconditions=(shapes.chosen_need,)),
        Command("shapes.notes", "Show the notes of this playing", shapes.show_notes, "Walk", "Return",
                "lick go to tab open", Scope.SHAPES, chosen, separated=True),
        Command("shapes.both", "Play both, one after the other", shapes.play_both, "Play", "B",
                "lick compare hear same again first", Scope.SHAPES, chosen, separated=True),
        Command("section.propose", "Propose sections", meaning.propose_sections, "Form", "Ctrl+Alt+S",
                "verse chorus part find again", Scope.TAB, (meaning.sections_need,)),
        Command("shapes.elsewhere", "Do the same where the lick comes again", meaning.correct_elsewhere, "Note",
                "Ctrl+Alt+G", "repeat correction fix others copy everywhere", Scope.TAB, (meaning.elsewhere_need,),
                separated=True),
        Command("versions.compare", "Compare with another version…", comparing.ask, OTHER, "Ctrl+Alt+O",
                "live record student other recording differences", preconditions=(preconditions.notes,)),
        Command("versions.next", "Next difference", lambda: page.step(1), OTHER, "N", "other version forward",
                Scope.VERSIONS, other),
        Command("versions.previous", "Difference before", lambda: page.step(-1), OTHER, "Shift+N", "other version back",
                Scope.VERSIONS, other),
        Command("versions.both", "Hear both versions here", page.hear_both, OTHER, "Return", "compare side by side",
                Scope.VERSIONS, other),
        Command("versions.here", "Hear the open solo here", page.hear_here, OTHER, "1", "original this", Scope.VERSIONS,
                other),
        Command("versions.there", "Hear the other version here", page.hear_there, OTHER, "2", "other", Scope.VERSIONS,
                other),
        Command("versions.note", "Show the note at the difference", page.show_note, OTHER, "Ctrl+Return", "go to tab",
                Scope.VERSIONS, other),
        Command("versions.close", "Back to the shapes", shapes.show_shapes, OTHER, "Backspace", "close other version",
                Scope.VERSIONS),
    ]  # fmt: skip
