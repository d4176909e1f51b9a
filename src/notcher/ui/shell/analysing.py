"""Everything that hears the open recording: the first draft, the rest, again, with a hint; and the Hear picture."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.errors import CancelCheck, Cancelled, Progress
from notcher.core.hearing import SURE_OF_TUNING, Draft, Hint, draft, first_phrases, written
from notcher.core.score import Tuning
from notcher.core.sound import Clip, Spectrogram, banded, focused, read_clip, spectrogram
from notcher.core.sound.spectrogram import PART_S
from notcher.core.words import doubt_words, many, tuning_name
from notcher.ui.benches.hear.hear_bench import HearBench
from notcher.ui.playback.sources import Sources
from notcher.ui.state.jobs import Jobs, Work
from notcher.ui.state.session import Session
from notcher.ui.state.settings import Settings
from notcher.ui.state.shell import Shell

LONG_S = 240.0
"""From so long on a recording is likely to hold more than one solo."""


@dataclass(frozen=True)
class Beginning:
    """A recording and what was heard of it so far. until_s: it is sure up to here, the rest is still to be heard; None
    when all of it was heard."""

    clip: Clip
    heard: Draft
    until_s: float | None


class Analysing:
    """Runs the hearing as the document's long work, and puts what it finds into the session."""

    def __init__(
        self, session: Session, jobs: Jobs, settings: Settings, hear: HearBench, sources: Sources, shell: Shell
    ) -> None:
        self._session, self._jobs, self._settings = session, jobs, settings
        self._hear, self._sources, self._shell = hear, sources, shell
        hear.draft_requested.connect(self.again)
        hear.hint_given.connect(self.follow_hint)
        hear.focus_changed.connect(self.show_focus)
        session.evidence_changed.connect(self._on_evidence_changed)

    @property
    def _style(self) -> str:
        return str(self._settings.get("fingering_style"))

    def beginning(self, file: Path) -> Work:
        """Return the work of reading a recording and hearing its first phrases, or all of a short one."""
        style = self._style

        def work(progress: Progress, cancelled: CancelCheck) -> Beginning:
            clip = read_clip(file)
            progress(0.02)
            begun = first_phrases(clip, style=style, cancelled=cancelled)
            if begun is not None:
                return Beginning(clip, *begun)
            return Beginning(clip, draft(clip, style=style, progress=progress, cancelled=cancelled), None)

        return work

    def go_on(self, begun: Beginning) -> None:
        """Hear the rest of a recording whose first phrases are open, or tell of one that was heard whole."""
        self._hear.show_heard(begun.heard.focus)
        if begun.clip.duration_s > LONG_S:
            self._shell.notice(
                "A long recording. Is only a part of it wanted? Drag over that part on the strip below, then File, "
                "Keep only the looped stretch."
            )
        if begun.until_s is None:
            self._session.take_evidence(begun.heard)
            self._tell_of(begun.heard)
            return
        clip, first, style = begun.clip, begun.heard.score, self._style

        def work(progress: Progress, cancelled: CancelCheck) -> Draft:
            return draft(clip, style=style, progress=progress, cancelled=cancelled)

        def done(whole: Draft) -> None:
            self._session.take_rest(whole, first)
            self._tell_of(whole)

        self._shell.run_job("Hearing the rest", work, done, document_id=self._session.document.id)

    def _drafting(self, clip: Clip, tuning: Tuning | None, *, style: str = "position") -> Work:
        """Return the work of drafting a recording with the focus and its band as they are now."""
        focus = self._hear.focus

        def work(progress: Progress, cancelled: CancelCheck) -> Draft:
            return draft(
                clip,
                focus=focus.name,
                band_hz=focus.band_hz,
                tuning=tuning,
                progress=progress,
                cancelled=cancelled,
                style=style,
            )

        return work

    def again(self) -> None:
        """Draft the open recording anew, with the focus and the tuning as they are now."""
        clip, score = self._session.document.clip, self._session.score
        if clip is None:
            self._shell.notice("There is no recording to hear. Open one with File, Open.")
            return
        work = self._drafting(clip, score.tuning if score.notes else None, style=self._style)
        self._hear.forget_hints()
        self._shell.run_job("Hearing again", work, self._session.hear_again, document_id=self._session.document.id)

    def hold_against(self) -> None:
        """Hear the recording to hold the tab against it; the tab stays as it is."""
        clip = self._session.document.clip
        if clip is None:
            return
        work = self._drafting(clip, self._session.score.tuning)
        self._shell.run_job("Hearing", work, self._session.take_evidence, document_id=self._session.document.id)

    def follow_hint(self, hint: Hint) -> None:
        """Follow the lead where the instructor says it is, and write the notes there again."""
        analysis, clip = self._session.analysis, self._session.document.clip
        if analysis is None or clip is None:
            self._shell.notice(
                "Press “Transcribe again” first: the strength of each pitch is not kept in the document."
            )
            return
        hints, score, focus, style = self._hear.hints, self._session.score, self._hear.focus, self._style

        def work(progress: Progress, _cancelled: CancelCheck) -> Draft:
            steered = analysis.steered(hints)
            progress(0.5)
            return written(clip, steered, focus=focus.name, tuning=score.tuning, style=style, progress=progress)

        self._shell.run_job(
            "Following your hint",
            work,
            lambda heard: self._session.steer(heard, hint),
            document_id=self._session.document.id,
        )

    def _on_evidence_changed(self) -> None:
        """Only how strong each pitch is comes from the evidence; the sound is as it was."""
        if self._hear.shows_strength:
            self.show_focus()

    def show_focus(self) -> None:
        """Draw what the chosen focus keeps, and play only that where it is wanted."""
        clip, focus, only_this = self._session.document.clip, self._hear.focus, self._hear.plays_focus
        analysis = self._session.analysis if self._hear.shows_strength else None
        if clip is None:
            return

        def kept(part: Clip) -> FloatArray:
            sound = focused(part, focus.name)
            return sound if focus.band_hz is None else banded(sound, clip.sample_rate, focus.band_hz)

        def work(_progress: Progress, cancelled: CancelCheck) -> tuple[Spectrogram, Clip]:
            def parts() -> Iterator[FloatArray]:  # all of a long recording at once is large
                for start_s in np.arange(0.0, clip.duration_s, PART_S).tolist():
                    if cancelled():
                        raise Cancelled
                    yield kept(clip.cut(start_s, start_s + PART_S))

            picture = spectrogram(parts(), clip.sample_rate) if analysis is None else analysis.picture()
            return picture, Clip(kept(clip)[:, None], clip.sample_rate, clip.name) if only_this else clip

        def done(result: tuple[Spectrogram, Clip]) -> None:
            self._hear.picture.show_sound(result[0])
            self._sources.play_of_recording(result[1])

        self._jobs.start("focus", work, finished=done, document_id=self._session.document.id)

    def _tell_of(self, draft: Draft) -> None:
        score = self._session.score
        doubts = sum(note.doubt is not None for note in score.notes)
        if draft.score.lead_doubt is not None:
            text = doubt_words(draft.score.lead_doubt, score.tuning)
            self._shell.notice(
                f"{text[0].upper()}{text[1:]}. What holds a pitch is written all the same, in doubt; "
                "if the guitar lies elsewhere, try another focus on the Hear bench."
            )
        elif draft.focus in ("left", "right"):
            self._shell.notice(
                f"{many(len(score.notes), 'note')} heard on the {draft.focus} side, where the lead plays; {doubts} in "
                "doubt (N walks through them)."
            )
        elif draft.tunings and draft.tunings[0].likelihood < SURE_OF_TUNING:
            name, share = tuning_name(draft.tunings[0].name), draft.tunings[0].likelihood
            self._shell.notice(
                f"{many(len(score.notes), 'note')} heard, {doubts} in doubt (N walks through them). "
                f"Tuning taken as {name}, {share:.0%} likely: check it on the Hear bench."
            )
