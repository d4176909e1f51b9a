"""The commands of the window itself: files, undo, benches, looks, help."""

from collections.abc import Callable

from notcher.core.formats import EXPORTS
from notcher.ui.commands.command import Command
from notcher.ui.commands.preconditions import Preconditions
from notcher.ui.shell.demo_cards import DemoCards
from notcher.ui.shell.dialogs import Dialogs
from notcher.ui.shell.opening import Opening
from notcher.ui.shell.recordings import Recordings
from notcher.ui.shell.saving import Saving
from notcher.ui.shell.whole_screen import WholeScreen
from notcher.ui.shell.window import Window
from notcher.ui.state.history import History
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench


def file_commands(
    opening: Opening,
    saving: Saving,
    recordings: Recordings,
    dialogs: Dialogs,
    window: Window,
    cards: DemoCards,
    settings: Settings,
    preconditions: Preconditions,
) -> list[Command]:
    """Return the File menu. cards: explain the demo when it is opened for the first time."""

    def demo() -> None:
        if settings.tell_once("demo cards"):
            cards.want()
        opening.open_demo()

    exports = [
        Command(f"export{ending}", f"{export.name}…", lambda e=ending: saving.ask_export(e), "File/Write as", "",  # type: ignore[misc]
                "export write print share", preconditions=(preconditions.notes,))
        for ending, export in EXPORTS.items()
    ]  # fmt: skip
    return [
        Command("file.open", "Open…", opening.ask, "File", "Ctrl+O", "load recording song audio document import"),
        Command("file.demo", "Open the demo", demo, "File", "", "example sample try"),
        Command("file.copied_tab", "Open the copied tab", opening.open_copied, "File", "Ctrl+Shift+O",
                "paste clipboard mail text web page import", preconditions=(opening.copied_need,)),
        Command("file.by_hand", "Write a solo by hand", opening.new_by_hand, "File", "Ctrl+N", "new blank empty"),
        Command("file.recording", "Lay the tab over a recording, or replace it…", recordings.ask_attach, "File",
                "Ctrl+Alt+R", "attach sound audio transfer align sync times", preconditions=(recordings.need_notes,),
                separated=True),
        Command("file.keep_stretch", "Keep only the looped stretch", recordings.keep_stretch, "File", "Ctrl+Alt+X",
                "cut trim crop part minute long improvisation", preconditions=(recordings.need_stretch,)),
        Command("file.no_recording", "Take the recording away", recordings.take_away, "File", "",
                "remove detach sound audio", preconditions=(preconditions.recording,)),
        Command("file.save", "Save", lambda: saving.save(), "File", "Ctrl+S", "store keep write", separated=True),
        Command("file.save_as", "Save as…", lambda: saving.save_as(), "File", "Ctrl+Shift+S", "store copy title name"),
        *exports,
        Command("file.facts", "Title and facts of the solo…", dialogs.facts, "File", "Ctrl+Alt+F",
                "rename player version pickup requested by student recording about", separated=True),
        Command("file.settings", "Settings…", dialogs.settings, "File", "", "preferences options volume naming",
                separated=True),
        Command("file.quit", "Quit", window.close, "File", "Ctrl+Q", "exit close end"),
    ]  # fmt: skip


def edit_commands(history: History, dialogs: Dialogs) -> list[Command]:
    """Return the Edit menu."""
    return [
        Command("edit.undo", "Undo", history.undo, "Edit", "Ctrl+Z", "back revert", preconditions=(history.undo_need,)),
        Command("edit.redo", "Redo", history.redo, "Edit", "Ctrl+Shift+Z", "again forward repeat",
                preconditions=(history.redo_need,),
                also="Ctrl+Y"),
        Command("edit.finder", "Find a command…", dialogs.finder, "Edit", "Ctrl+Space", "search action help how",
                separated=True),
        Command("edit.keys", "Keys…", dialogs.keys, "Edit", "", "shortcuts keyboard change"),
        Command("edit.save_snapshot", "Keep this state…", dialogs.save_snapshot, "Edit", "Ctrl+B", "version revision",
                separated=True),
        Command("edit.states", "Kept states…", dialogs.states, "Edit", "Ctrl+Shift+B",
                "version history compare revision changes"),
    ]  # fmt: skip


def view_commands(
    window: Window,
    session: Session,
    dialogs: Dialogs,
    settings: Settings,
    whole_screen: WholeScreen,
    cards: DemoCards,
    preconditions: Preconditions,
    changed: Callable[[], None],
    leave_page: Callable[[], bool],
) -> list[Command]:
    """Return the benches, the looks and the help.

    changed: called once a setting is another. leave_page: goes back from a page that lies over a bench, if one does.
    """

    def switched(name: str, value: object) -> None:
        settings.set(name, value)
        changed()

    def explain() -> None:
        window.show_bench(Bench.NOTCH)
        cards.start()

    def back() -> None:
        if cards.leave():
            return
        if whole_screen.on:
            whole_screen.toggle()
        elif not (leave_page() or window.take_keys_back() or session.select_one()):
            window.notices.quiet()

    benches = [
        Command(f"bench.{bench}", f"{bench.capitalize()} bench", lambda b=bench: window.show_bench(b), "View",  # type: ignore[misc]
                f"Ctrl+{number}", "show go page view", checked=lambda b=bench: window.bench is b)  # type: ignore[misc]
        for number, bench in enumerate(Bench, 1)
    ]  # fmt: skip
    return [
        *benches,
        Command("offer.first", "First answer to what is offered", lambda: window.notices.take(0), "Edit", "F12",
                "yes open recovered unsaved accept answer offer", preconditions=(window.notices.offer_need,),
                separated=True),
        Command("offer.second", "Second answer to what is offered", lambda: window.notices.take(1), "Edit",
                "Shift+F12", "no discard throw away answer offer",
                preconditions=(window.notices.second_need,)),
        Command("view.back", "Back to the bench, to one note, or close what is said", back, "View", "Esc",
                "escape leave field cancel selection notice close"),
        Command("view.stand", "The stand: two lines on the whole screen", whole_screen.toggle, "View", "F11",
                "full screen large read far music stand lesson", checked=lambda: whole_screen.on,
                hands_free=True),
        Command("view.strokes", "Show or hide pick strokes",
                lambda: switched("show_strokes", not settings.get("show_strokes")), "View", "Ctrl+Shift+Y",
                "picking draw", checked=lambda: bool(settings.get("show_strokes")), separated=True),
        Command("view.degrees", "Show or hide degrees",
                lambda: switched("show_degrees", not settings.get("show_degrees")), "View", "Ctrl+Alt+D",
                "chord tone target note role letters", checked=lambda: bool(settings.get("show_degrees"))),
        Command("view.licks", "Show or hide licks",
                lambda: switched("show_licks", not settings.get("show_licks")), "View", "Ctrl+Alt+L",
                "again same repeat shape bracket", checked=lambda: bool(settings.get("show_licks"))),
        Command("view.theme", "Light or dark colours",
                lambda: switched("theme", "stage" if settings.get("theme") == "paper" else "paper"), "View", "Ctrl+T",
                "dark light theme colours look night"),
        Command("play.volumes", "Volumes…", dialogs.volumes, "Play", "Ctrl+Alt+V",
                "loud quiet mix level recording tab band click metronome", separated=True),
        Command("play.devices", "Devices…", dialogs.devices, "Play", "",
                "input output audio interface microphone loudspeaker headphones sound card monitor guitar plug",
                preconditions=(dialogs.devices_need,)),
        Command("lesson.weights", "What makes a phrase hard…", dialogs.weights, "Play", "",
                "difficulty weights points parts adjust"),
        Command("help.guide", "The guide", dialogs.guide, "Help", "F1", "help manual how learn explain pages"),
        Command("help.cards", "The cards that explain the window", explain, "Help", "",
                "tour introduction first steps demo", preconditions=(preconditions.notes,)),
        Command("help.next_card", "Next card", cards.go_on, "Help", "F3", "tour introduction demo",
                preconditions=(
                    lambda: "" if cards.shown else "No card is shown: Help, The cards that explain the window.",
                )),
        Command("help.legend", "Legend and keys", dialogs.legend, "Help", "Shift+F1", "help marks symbols shortcuts"),
        Command("help.log", "The log…", dialogs.log, "Help", "", "error problem report trouble file what went wrong"),
        Command("help.about", "About Notcher", dialogs.about, "Help", "", "version licence"),
    ]  # fmt: skip
