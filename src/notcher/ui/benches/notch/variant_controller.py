"""Variants in the Notch bench: making them, showing them beside the original, hearing both, putting notes back."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from notcher.core.score import Phrase, Score, Tuning, Variant, excerpt, key_from_text, tuning_from_text
from notcher.core.score.edits import with_variant
from notcher.core.teaching import (
    OtherNote,
    Refused,
    TransposeSpec,
    Varied,
    as_variant,
    differs_from,
    easier,
    moved_lick,
    other_note_words,
    over_chord,
    put_back,
)
from notcher.core.teaching.transposing import chord_from_words, semitones_to_key
from notcher.core.theory import named_key, ranked_keys, scale_of
from notcher.core.words import Naming, many
from notcher.painting.other_notes import Shown
from notcher.painting.theme import Theme
from notcher.ui.benches.notch.variant_dialog import VariantDialog
from notcher.ui.state.session import Session
from notcher.ui.tab.tab_view import TabView
from notcher.ui.widgets.asking import ask_text

LEVEL_NAMES = {"A little easier": 1, "Easier": 2, "As easy as it gets": 3}
TO_KEY, BY_STEPS, OVER, SOUND, FRETS = (
    "To the key of", "By half steps", "From over one chord to over", "Same sound, tuned", "Same frets, tuned",
)  # fmt: skip
BREATH_S = 0.05  # before the phrase, so that its first attack is whole


class VariantController(QObject):
    """Acts on the variants of the phrase at the selected note."""

    hear_requested = pyqtSignal(list, float)  # scores, one after the other; the second that they are of
    notice = pyqtSignal(str)

    def __init__(
        self, session: Session, tab: TabView, look: Callable[[], tuple[Theme, float, Naming]], parent: QWidget
    ) -> None:
        """look: the theme, the text's scale and the naming, asked when a dialog is opened."""
        super().__init__(parent)
        self._session, self._tab, self._look, self._window = session, tab, look, parent
        session.score_changed.connect(self._show)
        session.variant_changed.connect(self._show)

    # --- what there is ---
    @property
    def phrase(self) -> Phrase | None:
        """The phrase that is meant: of the variant in view, else at the selected note."""
        variant = self._session.variant
        if variant is not None:
            return self._session.document.score.phrase_of(variant.phrase)
        return self._session.phrase

    @property
    def variants(self) -> tuple[Variant, ...]:
        """The variants of that phrase, in the order in which they were made."""
        phrase = self.phrase
        every = self._session.document.score.variants
        return tuple(variant for variant in every if phrase is not None and variant.phrase == phrase.id)

    def need_variant(self) -> str:
        """Why nothing can be done with a variant; empty when something can."""
        return "" if self._session.variant is not None else "No variant is in view: \\ shows one, if there is any."

    def need_variants(self) -> str:
        if self.variants:
            return ""
        return "This phrase has no variant yet: Structure, Variants makes an easier or a transposed one."

    def others(self) -> tuple[OtherNote, ...]:
        """What the variant in view has otherwise."""
        variant = self._session.variant
        return differs_from(self._session.document.score, variant) if variant is not None else ()

    def words_of(self, note_id: str) -> str:
        """In what a note in view is not the original's; empty where it is in nothing."""
        other_note = next((o for o in self.others() if o.after is not None and o.after.id == note_id), None)
        if other_note is None:
            return ""
        score, naming = self._session.document.score, self._look()[2]
        return f"here otherwise: {other_note_words(other_note, score, self._session.score.tuning, naming)}"

    def _show(self) -> None:
        variant, phrase = self._session.variant, self.phrase
        if variant is None or phrase is None:
            self._tab.show_variant(None)
        else:
            self._tab.show_variant(Shown(variant.name, phrase.start_s, phrase.end_s, self.others()))

    # --- showing ---
    def next_variant(self) -> None:
        """Show the next variant of the phrase; after the last the original again."""
        shown = [variant.id for variant in self.variants]
        now = self._session.variant
        at = shown.index(now.id) + 1 if now is not None and now.id in shown else 0
        self._session.show_variant(shown[at] if at < len(shown) else "")
        variant = self._session.variant
        if variant is None:
            self.notice.emit("The original is in view.")
        else:
            count = len(self.others())
            self.notice.emit(f"“{variant.name}” is in view: {many(count, 'note')} otherwise than in the original.")

    def hear_both(self) -> None:
        """Hear the original, then the variant in view, or the phrase's first one."""
        phrase, variants = self.phrase, self.variants
        variant = self._session.variant or (variants[0] if variants else None)
        if phrase is None or variant is None:
            return
        score = self._session.document.score
        both = [_alone(score, phrase), _alone(score.with_variant(variant), phrase)]
        self.hear_requested.emit(both, phrase.start_s)

    # --- making ---
    def ease(self) -> None:
        """Ask how much easier, and show what would change."""

        phrase, score = self.phrase, self._session.document.score
        if phrase is None:
            return

        def plan(way: str, _typed: str, refused: Refused) -> tuple[Varied, str, Tuning | None]:
            return easier(score, phrase, LEVEL_NAMES[way], refused=refused), way.lower(), None

        self._ask("Make it easier", phrase, dict.fromkeys(LEVEL_NAMES, ""), plan)

    def move(self) -> None:
        """Ask where to, and show what would change."""
        phrase, score = self.phrase, self._session.document.score
        if phrase is None:
            return
        chord = score.chord_at(phrase.start_s)
        key = key_of(score, phrase)

        def plan(way: str, typed: str, refused: Refused) -> tuple[Varied, str, Tuning | None]:
            move, name = self._move(score, phrase, way, typed)
            return moved_lick(score, phrase, move, refused=refused), name, move.tuning

        ways = {
            TO_KEY: str(key) if key else "A minor",
            BY_STEPS: "2",
            OVER: f"{chord or 'C'} to IV",
            SOUND: "drop-d",
            FRETS: "half-down",
        }
        self._ask("Move the phrase", phrase, ways, plan)

    def _move(self, score: Score, phrase: Phrase, way: str, typed: str) -> tuple[TransposeSpec, str]:
        if way == TO_KEY:
            wanted = key_from_text(typed)
            now = key_of(score, phrase) or wanted
            return TransposeSpec(semitones_to_key(now, wanted)), f"in {wanted}"
        if way == BY_STEPS:
            steps = int(typed) if typed.lstrip("+-").isdecimal() else None
            if steps is None or abs(steps) > 24:
                raise ValueError("type how many half steps, minus for lower: 2, -3")
            return TransposeSpec(steps), f"{many(abs(steps), 'half step')} {'higher' if steps >= 0 else 'lower'}"
        if way == OVER:
            here, _, there = typed.partition(" to ")
            target = chord_from_words(there.strip(), here.strip())
            return over_chord(here.strip(), target), f"over {target}"
        tuning = tuning_from_text(typed)
        return TransposeSpec(
            tuning=tuning, pitch_stays=way == SOUND
        ), f"{'same sound' if way == SOUND else 'same frets'}, {typed}"

    def _ask(self, title: str, phrase: Phrase, ways: dict[str, str], plan) -> None:  # type: ignore[no-untyped-def]
        score = self._session.document.score
        dialog = VariantDialog(title, score, phrase, ways, plan, look=self._look(), parent=self._window)
        dialog.hear_requested.connect(lambda scores: self.hear_requested.emit(scores, phrase.start_s))
        dialog.made.connect(lambda varied, name, tuning: self._take(phrase, varied, name, tuning))
        dialog.open()

    def _take(self, phrase: Phrase, varied: Varied, name: str, tuning: Tuning | None) -> None:
        variant = replace(as_variant(phrase, name, varied), tuning=tuning)
        whole = with_variant(self._session.document.score, variant)
        self._session.edit_variants(f"{name[0].upper()}{name[1:]}: {phrase.name or 'phrase'}", whole, show=variant.id)
        self.notice.emit(f"“{name}” stands beside the original now: \\ switches between them.")

    # --- changing ---
    def put_note_back(self) -> None:
        """Make the selected notes what the original has there, together with what was left out under them."""
        session, variant, phrase = self._session, self._session.variant, self.phrase
        if variant is None or phrase is None:
            return
        notes = list(session.chosen.notes(session.score))
        if not notes:
            return
        sources = {note.source for note in notes}
        following = [n.onset_s for n in session.score.notes if n.onset_s > notes[-1].onset_s + 1e-6]
        until_s = min(following, default=phrase.end_s)
        for other in self.others():  # what was left out after them, up to the next note that is there
            if other.after is None and other.before is not None and notes[0].onset_s <= other.onset_s < until_s:
                sources.add(other.before.id)
        whole = with_variant(session.document.score, put_back(session.document.score, variant, sources))
        if whole == session.document.score:
            self.notice.emit("Here the variant is as the original.")
            return
        session.edit_variants("Put back", whole, show=variant.id)

    def rename(self) -> None:
        variant = self._session.variant
        if variant is not None:

            def named(name: str) -> None:
                if name.strip():
                    whole = with_variant(self._session.document.score, replace(variant, name=name.strip()))
                    self._session.edit_variants("Name the variant", whole, show=variant.id)
                    self._show()

            ask_text(self._window, "Variant", "Name of the variant", variant.name, named)

    def delete(self) -> None:
        """Throw the variant in view away; the original stays."""
        variant = self._session.variant
        if variant is not None:
            score = self._session.document.score
            remaining = replace(score, variants=tuple(other for other in score.variants if other.id != variant.id))
            self._session.edit_variants(f"Delete {variant.name}", remaining, show="")


def key_of(score: Score, phrase: Phrase):  # type: ignore[no-untyped-def]
    """The key that a phrase is said or likely to be in, as it is called on the neck; None without notes."""
    result = score.key_at(phrase.start_s)
    if result is not None:
        return result
    likely = scale_of(score, [score.notes[at] for at in score.notes_of(phrase)], ranked_keys(score))
    return None if likely is None else named_key((likely.tonic - score.tuning.shift) % 12, likely.scale)


def _alone(score: Score, phrase: Phrase) -> Score:
    return excerpt(score, max(0.0, phrase.start_s - BREATH_S), phrase.end_s)
