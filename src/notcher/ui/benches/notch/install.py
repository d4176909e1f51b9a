"""The Notch bench in its place, with its dialogs, its variants and what is told over the notes."""

from dataclasses import dataclass

from notcher.core.score import Score
from notcher.core.words import many
from notcher.painting.meaning_layer import LickMark, lick_marks
from notcher.ui.benches.context import Context, Installed
from notcher.ui.benches.notch.clipboard import Clipboard
from notcher.ui.benches.notch.commands import notch_commands
from notcher.ui.benches.notch.dialogs import NotchDialogs
from notcher.ui.benches.notch.notch_bench import NotchBench
from notcher.ui.benches.notch.variant_controller import VariantController
from notcher.ui.commands.command import Scope
from notcher.ui.state.shell import Bench


@dataclass(slots=True, kw_only=True)
class Notch(Installed):
    bench: NotchBench
    dialogs: NotchDialogs
    variants: VariantController


def install(context: Context) -> Notch:
    """Build the bench and connect it."""
    session, player, shell, requests = context.session, context.player, context.shell, context.requests
    bench = NotchBench(session, lambda: player.time_s)
    clipboard = Clipboard(session, shell.notice, lambda: context.look[2])
    dialogs = NotchDialogs(session, bench.editor, player, clipboard, context.parent)
    bench.editor.notes_copied.connect(clipboard.put)
    variants = VariantController(session, bench.tab, lambda: context.look, context.parent)
    bench.set_dialogs(dialogs)
    _connect_tab(context, bench, dialogs)
    bench.notice.connect(shell.notice)
    variants.notice.connect(shell.notice)
    variants.hear_requested.connect(context.sources.play_scores)
    session.variant_changed.connect(bench.tell_again)
    writing = bench.writing
    writing.changed.connect(lambda: context.commands.set_active(Scope.WRITING, writing.next_spot is not None))
    bench.editor.phrase_stepped.connect(context.transport.follow_phrase)

    def drop_in(lick: Score) -> None:
        shell.show_bench(Bench.NOTCH)  # where it is seen
        dialogs.drop_in(lick)

    def show_note(note_id: str) -> None:
        """One that is gone by now leaves the selection."""
        session.show_variant("")
        if session.score.note_of(note_id) is not None:
            session.select(note_id)
        shell.show_bench(Bench.NOTCH)

    def show_notes(first: int, last: int) -> None:
        notes = session.score.notes
        session.select(notes[last].id)
        session.select(notes[first].id, extend=True)
        shell.show_bench(Bench.NOTCH)

    requests.lick.connect(drop_in)
    requests.note.connect(show_note)
    requests.notes.connect(show_notes)
    bench.set_again(lambda note_id: variants.words_of(note_id) or _again_words(context, note_id))
    context.meaning.changed.connect(lambda: _show_meaning(context, bench))

    def configure() -> None:
        settings = context.settings
        bench.set_choices(
            style=settings.get("fingering_style"),
            picking_style=settings.get("picking_style"),
            nudge_s=settings.get("nudge_ms") / 1000,
        )
        bench.tab.show_strokes(settings.get("show_strokes"))
        bench.set_left_handed(settings.get("left_handed"))
        _show_meaning(context, bench)

    return Notch(
        bench=bench,
        dialogs=dialogs,
        variants=variants,
        widget=bench,
        focus=bench.tab,
        commands=notch_commands(bench, dialogs, variants, player, context.preconditions),
        scopes={Scope.TAB: bench.tab, Scope.WRITING: bench.tab},
        themed=(bench,),
        named=(bench,),
        configure=configure,
        leave_page=bench.writing.leave_beside,
    )


def _connect_tab(context: Context, bench: NotchBench, dialogs: NotchDialogs) -> None:
    tab, player, shell = bench.tab, context.player, context.shell
    context.playhead.moved.connect(lambda time_s: tab.show_playhead(time_s, follow=player.playing))
    player.state_changed.connect(lambda: tab.show_loop(player.loop_span))
    tab.seek_requested.connect(shell.seek)
    tab.loop_requested.connect(lambda start_s, end_s: shell.loop((start_s, end_s)))
    tab.chord_pick_requested.connect(dialogs.chord_at)
    for acted in (tab.note_pick_requested, tab.fret_typed):
        acted.connect(lambda *_: shell.quiet())


def _show_meaning(context: Context, bench: NotchBench) -> None:
    """Give the tab the layers that are switched on."""
    meaning, settings = context.meaning, context.settings
    targets = meaning.targets if settings.get("show_degrees") else ()
    licks: tuple[LickMark, ...] = ()
    if settings.get("show_licks"):
        groups = (*meaning.patterns.groups, *meaning.patterns.outlines)
        licks = lick_marks(meaning.score, meaning.shapes, meaning.boxes, groups, naming=settings.naming)
    bench.tab.show_meaning(meaning.score, targets, licks)
    bench.tell_again()


def _again_words(context: Context, note_id: str) -> str:
    """That a note comes again, and by which keys it is made the same there."""
    count = len(context.meaning.partners(note_id))
    if not count:
        return ""
    keys = context.commands.keys_shown("shapes.elsewhere")
    return f"again in {many(count, 'other place')}" + (f": {keys} does the same there" if keys else "")
