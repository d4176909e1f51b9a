"""A planned lesson as `notcher plan` prints it."""

from collections.abc import Mapping
from typing import Any

from notcher.core.teaching.plan import Plan, Step, StepKey, Why, Wishes
from notcher.core.teaching.student_model import PaceEstimate
from notcher.core.teaching.words import caution_words, later_words, step_words
from notcher.core.words import clock


def plan_data(plan: Plan) -> dict[str, Any]:
    """Return what `notcher plan --json` prints; see the schema of the same name."""
    steps = [_step(step, plan) for step in plan.steps]
    return {
        "format": "notcher-plan",
        "version": 1,
        "school": str(plan.lesson_order),
        "minutes": plan.minutes,
        "planned_minutes": sum(step["seconds"] for step in steps) / 60,
        "phrases": [
            {"id": phrase.id, "start_s": round(phrase.start_s, 4), "end_s": round(phrase.end_s, 4)}
            for phrase in plan.phrases
        ],
        "difficulty": [
            {
                "phrase": phrase.id,
                "score": plan.difficulty[phrase.id].points,
                "notes_per_second": plan.difficulty[phrase.id].parts.notes_per_s,
                "parts": plan.difficulty[phrase.id].parts.as_dict(),
            }
            for phrase in plan.phrases
        ],
        "steps": steps,
        "estimates": [
            _estimate(phrase.id, plan.student.estimates[phrase.id])
            for phrase in plan.phrases
            if phrase.id in plan.student.estimates
        ],
        "later": [
            {"phrases": list(later.phrases), "days_from_now": later.days_from_now, "why": later_words(later, plan)}
            for later in plan.later
        ],
        "cautions": [caution_words(caution, plan) for caution in plan.cautions],
    }


def _step(step: Step, plan: Plan) -> dict[str, Any]:
    data: dict[str, Any] = {"phrases": list(step.phrases)}
    if step.piece is not None:
        data["piece"] = list(step.piece)
    if step.listen:
        data["listen"] = True
    parts = {name: round(seconds, 3) for name, seconds in step.parts.as_dict().items()}
    return data | {
        "kind": str(step.kind), "pace": step.pace, "bpm": step.bpm, "rounds": step.rounds,
        "seconds": round(sum(parts.values()), 3), "parts": parts, "why": step_words(step, plan),
    }  # fmt: skip


def _estimate(phrase_id: str, found: PaceEstimate) -> dict[str, Any]:
    return {
        "phrase": phrase_id, "clean_now": round(found.clean_now, 4), "low": round(found.low, 4),
        "high": round(found.high, 4), "next_pace": found.next_pace, "marks": found.marks,
    }  # fmt: skip


def plan_lines(plan: Plan) -> list[str]:
    """Return a lesson in lines: when, what, how slowly and how often, and why; then what is for later."""
    lines = [f"{plan.planned_minutes:.0f} minutes, {plan.lesson_order}: {len(plan.steps)} steps"]
    now_s = 0.0
    for step in plan.steps:
        how = f"{step.pace * 100:3.0f} %, {step.bpm:.0f} bpm, {'once' if step.rounds == 1 else f'{step.rounds} times'}"
        lines.append(f"{clock(now_s):>8}  {how}: {step_words(step, plan)}")
        now_s += step.seconds
    lines += [f"in {later.days_from_now:3d} d  {later_words(later, plan)}" for later in plan.later]
    return [*lines, *(caution_words(caution, plan) for caution in plan.cautions)]


def wishes_data(wishes: Wishes) -> dict[str, Any]:
    """Return wishes as plain JSON values, for the record."""
    return {
        "skipped": sorted((_key_data(key) for key in wishes.skipped), key=str),
        "rounds": [[_key_data(key), rounds] for key, rounds in wishes.rounds.items()],
        "order": [_key_data(key) for key in wishes.order],
    }


def wishes_of(data: Mapping[str, Any]) -> Wishes:
    """Return the wishes that `wishes_data` told; what a newer Notcher has put otherwise is as good as no wish."""
    try:
        return Wishes(
            frozenset(_key_of(key) for key in data.get("skipped", ())),
            {_key_of(key): int(rounds) for key, rounds in data.get("rounds", ())},
            tuple(_key_of(key) for key in data.get("order", ())),
        )
    except (ValueError, TypeError, AttributeError):
        return Wishes()


def _key_data(key: StepKey) -> list[Any]:
    phrases, why, piece = key
    return [list(phrases), str(why), None if piece is None else list(piece)]


def _key_of(data: Any) -> StepKey:
    phrases, why, piece = data
    return tuple(map(str, phrases)), Why(why), None if piece is None else (int(piece[0]), int(piece[1]))
