"""The commands of the Shapes bench."""

from notcher.ui.benches.shapes.shapes_bench import ShapesBench
from notcher.ui.commands.command import Command, Scope
from notcher.ui.state.meaning import Meaning


def shapes_commands(shapes: ShapesBench, meaning: Meaning) -> list[Command]:
    """Return what is done with a chosen playing, and with a note that comes again."""
    chosen = (shapes.chosen_need,)
    return [
        Command("shapes.pdf", "Shapes as a PDF…", shapes.ask_pdf, "File/Write as", "",
                "print pages export what comes again", needs=(shapes.chosen_need,)),
        Command("shapes.notes", "Show the notes of this playing", shapes.show_notes, "Walk", "Return",
                "lick go to tab open", Scope.SHAPES, chosen, separated=True),
        Command("shapes.both", "Play both, one after the other", shapes.play_both, "Play", "B",
                "lick compare hear same again first", Scope.SHAPES, chosen, separated=True),
        Command("section.propose", "Propose sections", meaning.propose_sections, "Form", "Ctrl+Alt+S",
                "verse chorus part find again", Scope.TAB, (meaning.sections_need,)),
        Command("shapes.elsewhere", "Do the same where the lick comes again", meaning.correct_elsewhere, "Note",
                "Ctrl+Alt+G", "repeat correction fix others copy everywhere", Scope.TAB, (meaning.elsewhere_need,),
                separated=True),
    ]  # fmt: skip
