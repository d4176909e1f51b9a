"""A claim held against what was heard, and a student's take held against the claim."""

from notcher.core.proving.advice import LANDED_CENTS, Advice, Matter, advice
from notcher.core.proving.correcting import corrected, exclude, taken_in, written_in
from notcher.core.proving.doubts import DoubtState, ListedDoubt, PhraseState, doubts, phrase_states
from notcher.core.proving.landings import histogram, landings
from notcher.core.proving.latency import LatencyError, calibration_clicks, clap_delay_s, loop_back_delay_s
from notcher.core.proving.overlaying import LaidOver, laid_over, laid_over_again
from notcher.core.proving.parting import where_they_part
from notcher.core.proving.practice import Mark, Result, Take
from notcher.core.proving.proof import Finding, Mention, MissedNote, Proof, Status, prove
from notcher.core.proving.take import PhraseReport, Played, TakeError, TakeReport, Thresholds, hear_take, judged, report
from notcher.core.proving.versions import Comparison, Difference, Differs, NothingInCommonError, Version, compared

__all__ = [
    "LANDED_CENTS",
    "Advice",
    "Comparison",
    "Difference",
    "Differs",
    "DoubtState",
    "Finding",
    "LaidOver",
    "LatencyError",
    "ListedDoubt",
    "Mark",
    "Matter",
    "Mention",
    "MissedNote",
    "NothingInCommonError",
    "PhraseReport",
    "PhraseState",
    "Played",
    "Proof",
    "Result",
    "Status",
    "Take",
    "TakeError",
    "TakeReport",
    "Thresholds",
    "Version",
    "advice",
    "calibration_clicks",
    "clap_delay_s",
    "compared",
    "corrected",
    "doubts",
    "exclude",
    "hear_take",
    "histogram",
    "judged",
    "laid_over",
    "laid_over_again",
    "landings",
    "loop_back_delay_s",
    "phrase_states",
    "prove",
    "report",
    "taken_in",
    "where_they_part",
    "written_in",
]
