"""The commands of the window itself: files, undo, benches, looks, help."""

from collections.abc import Callable

from notcher.core.formats import EXPORTS
from notcher.ui.commands.command import Command
from notcher.ui.commands.preconditions import Preconditions
from notcher.ui.shell.dialogs import Dialogs
from notcher.ui.shell.opening import Opening
from notcher.ui.shell.recordings import Recordings
from notcher.ui.shell.saving import Saving
from notcher.ui.shell.tour_cards import TourCards
from notcher.ui.shell.whole_screen import WholeScreen
from notcher.ui.shell.window import Window
from notcher.ui.state.history import History
from notcher.ui.state.look import TEXT_SCALES
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Bench

TEXT_STEP = 0.1  # of the usual size


def file_commands(
    opening: Opening,
    saving: Saving,
    recordings: Recordings,
    dialogs: Dialogs,
    window: Window,
    preconditions: Preconditions,
) -> list[Command]:
    """Return the File menu."""

    exports = [
        Command(f"export{ending}", lambda e=ending: saving.ask_export(e), preconditions=(preconditions.notes,))  # type: ignore[misc]
        for ending, export in EXPORTS.items()
    ]  # fmt: skip
    return [
        Command("file.open", opening.ask, "Ctrl+O"),
        Command("file.demo", opening.open_demo),
        Command("file.copied_tab", opening.open_copied, "Ctrl+Shift+O", preconditions=(opening.copied_need,)),
        Command("file.by_hand", opening.new_by_hand, "Ctrl+N"),
        Command("file.recording", recordings.ask_attach, "Ctrl+Alt+R", preconditions=(recordings.need_notes,)),
        Command("file.keep_stretch", recordings.keep_stretch, "Ctrl+Alt+X",
                preconditions=(recordings.need_stretch,)),
        Command("file.no_recording", recordings.take_away, preconditions=(preconditions.recording,)),
        Command("file.save", lambda: saving.save(), "Ctrl+S"),
        Command("file.save_as", lambda: saving.save_as(), "Ctrl+Shift+S"),
        *exports,
        Command("work.cancel", window.cancel_work, preconditions=(window.work_need,)),
        Command("file.facts", dialogs.facts, "Ctrl+Alt+F"),
        Command("file.settings", dialogs.settings),
        Command("file.quit", window.close, "Ctrl+Q"),
    ]  # fmt: skip


def edit_commands(history: History, dialogs: Dialogs) -> list[Command]:
    """Return the Edit menu."""
    return [
        Command("edit.undo", history.undo, "Ctrl+Z", preconditions=(history.undo_need,)),
        Command("edit.redo", history.redo, "Ctrl+Shift+Z", preconditions=(history.redo_need,), also="Ctrl+Y"),
        Command("edit.finder", dialogs.finder, "Ctrl+Space"),
        Command("edit.keys", dialogs.keys),
        Command("edit.save_snapshot", dialogs.save_snapshot, "Ctrl+B"),
        Command("edit.states", dialogs.states, "Ctrl+Shift+B"),
    ]  # fmt: skip


def view_commands(
    window: Window,
    session: Session,
    dialogs: Dialogs,
    settings: Settings,
    whole_screen: WholeScreen,
    cards: TourCards,
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

    def resized(steps: int) -> None:
        low, high = TEXT_SCALES
        switched("text_scale", min(high, max(low, round(settings.get("text_scale") + steps * TEXT_STEP, 2))))

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
        Command(f"bench.{bench}", lambda b=bench: window.show_bench(b), f"Ctrl+{number}",  # type: ignore[misc]
                checked=lambda b=bench: window.bench is b)  # type: ignore[misc]
        for number, bench in enumerate(Bench, 1)
    ]  # fmt: skip
    return [
        *benches,
        Command("offer.first", lambda: window.notices.take(0), "F12", preconditions=(window.notices.offer_need,)),
        Command("offer.second", lambda: window.notices.take(1), "Shift+F12",
                preconditions=(window.notices.second_need,)),
        Command("view.back", back, "Esc"),
        Command("view.stand", whole_screen.toggle, "F11", checked=lambda: whole_screen.on, hands_free=True),
        Command("view.strokes", lambda: switched("show_strokes", not settings.get("show_strokes")), "Ctrl+Shift+Y",
                checked=lambda: bool(settings.get("show_strokes"))),
        Command("view.degrees", lambda: switched("show_degrees", not settings.get("show_degrees")), "Ctrl+Alt+D",
                checked=lambda: bool(settings.get("show_degrees"))),
        Command("view.licks", lambda: switched("show_licks", not settings.get("show_licks")), "Ctrl+Alt+L",
                checked=lambda: bool(settings.get("show_licks"))),
        Command("view.theme", lambda: switched("theme", "stage" if settings.get("theme") == "paper" else "paper"),
                "Ctrl+T"),
        Command("view.larger_text", lambda: resized(1)),
        Command("view.smaller_text", lambda: resized(-1)),
        Command("play.rounds", dialogs.rounds),
        Command("play.volumes", dialogs.volumes, "Ctrl+Alt+V"),
        Command("play.devices", dialogs.devices, preconditions=(dialogs.devices_need,)),
        Command("lesson.weights", dialogs.weights),
        Command("help.guide", dialogs.guide, "F1"),
        Command("help.cards", explain, preconditions=(preconditions.notes,)),
        Command("help.next_card", cards.go_on, "F3",
                preconditions=(
                    lambda: "" if cards.shown else "No card is shown: Help, Quick tour.",
                )),
        Command("help.legend", dialogs.legend, "Shift+F1"),
        Command("help.log", dialogs.log),
        Command("help.about", dialogs.about),
    ]  # fmt: skip
