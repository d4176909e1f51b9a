"""Models as plain JSON values, and back, by their fields. What is at its default is left out; ids never are.

Source of the conversion: the library cattrs; a model says itself what it can be, and refuses the rest.
"""

from collections.abc import Callable
from typing import Any, TypeVar

import cattrs
from cattrs.errors import ClassValidationError, ForbiddenExtraKeysError
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn, override

from notcher.core.score import Meter, Note, Phrase, PitchCurve, Score, Section, Variant, meter_from_text

Model = TypeVar("Model")
IDENTIFIED = (Note, Phrase, Section, Variant)


class ModelError(ValueError):
    """Values that no model can have, in one clause."""


def _converter() -> cattrs.Converter:
    converter = cattrs.Converter(omit_if_default=True, forbid_extra_keys=True)
    converter.register_unstructure_hook(PitchCurve, lambda curve: [list(point) for point in curve.points])
    converter.register_structure_hook(
        PitchCurve, lambda points, _: PitchCurve(tuple((float(time_s), float(bend)) for time_s, bend in points))
    )
    converter.register_unstructure_hook(Meter, str)
    converter.register_structure_hook(Meter, lambda text, _: meter_from_text(text))
    for model in IDENTIFIED:
        always = override(omit_if_default=False)
        converter.register_unstructure_hook(
            model, make_dict_unstructure_fn(model, converter, _cattrs_omit_if_default=True, id=always)
        )
        converter.register_structure_hook(model, _keyed(model, converter))
    return converter


def _keyed(model: type[Model], converter: cattrs.Converter) -> Callable[[Any, Any], Model]:
    """How a model with an id is read: in a document nothing is without one."""
    read = make_dict_structure_fn(model, converter, _cattrs_forbid_extra_keys=True)

    def structured(data: Any, kind: Any) -> Model:
        if not data.get("id"):
            raise ModelError(f"a {model.__name__.lower()} has no id")
        return read(data, kind)

    return structured


CONVERTER = _converter()


def to_data(model: Any) -> Any:
    """Return a model as plain JSON values."""
    return CONVERTER.unstructure(model)


def from_data(data: Any, kind: type[Model]) -> Model:
    """Return the model of plain JSON values. Raises: ModelError that names the first thing no model can have."""
    try:
        return CONVERTER.structure(data, kind)
    except Exception as problem:
        raise ModelError(_first_fault(problem)) from problem


def score_from_data(data: dict[str, Any]) -> Score:
    """Return a score whose notes may be in any order; equal times are the file's affair. Raises: ModelError."""
    ordered = dict(data)
    ordered["notes"] = sorted(data.get("notes", ()), key=lambda note: (note["onset_s"], note["string"]))
    return from_data(ordered, Score)


def _first_fault(problem: BaseException) -> str:
    """The innermost of what cattrs has gathered, in words."""
    while isinstance(problem, ClassValidationError | cattrs.IterableValidationError) and problem.exceptions:
        problem = problem.exceptions[0]
    if isinstance(problem, ForbiddenExtraKeysError):
        return f"it has unknown fields: {', '.join(sorted(problem.extra_fields))}"
    if isinstance(problem, KeyError):
        return f"{problem.args[0]} is missing"
    return str(problem) or type(problem).__name__
