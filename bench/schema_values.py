"""Another value where one stands, as the JSON Schema allows it: at the edges, in between, long, short."""

import copy
from typing import Any

import numpy as np

Leaf = tuple[Any, Any, dict[str, Any]]
"""Where a value lies (a list or an object, an index or a name), and the schema of it."""
LETTERS = ("a", "é", "𝄞", "\n", "\x07", "<b>", "=", "/", " ", "-", "|")


def _resolved(schema: dict[str, Any], root: dict[str, Any]) -> dict[str, Any]:
    while "$ref" in schema:
        found: Any = root
        for name in schema["$ref"].removeprefix("#/").split("/"):
            found = found[name]
        schema = found
    return schema


def leaves(data: Any, schema: dict[str, Any], root: dict[str, Any]) -> list[Leaf]:
    """Return every value in some data that is no list or object, with the schema that it is held against."""
    found: list[Leaf] = []
    schema = _resolved(schema, root)
    if "anyOf" in schema:  # the one that a value of this kind fits
        kinds = [_resolved(part, root) for part in schema["anyOf"]]
        schema = next((kind for kind in kinds if (kind.get("type") == "null") == (data is None)), kinds[0])
    pairs: list[tuple[Any, dict[str, Any]]] = []
    if isinstance(data, dict):
        pairs = [(name, schema.get("properties", {}).get(name, {})) for name in data]
    elif isinstance(data, list):
        items = schema.get("items", {})
        pairs = [(at, items[at] if isinstance(items, list) else items) for at in range(len(data))]
    for key, part in pairs:
        if isinstance(data[key], dict | list):
            found += leaves(data[key], part, root)
        else:
            found.append((data, key, _resolved(part, root)))
    return found


def another(schema: dict[str, Any], dice: np.random.Generator) -> Any:
    """Return a value that a schema allows."""
    if "enum" in schema:
        return schema["enum"][int(dice.integers(len(schema["enum"])))]
    kind = schema.get("type", "string")
    kind = kind[int(dice.integers(len(kind)))] if isinstance(kind, list) else kind
    if kind == "null":
        return None
    if kind == "boolean":
        return bool(dice.random() < 0.5)
    if kind in ("number", "integer"):
        low, high = schema.get("minimum", -1e6), schema.get("maximum", 1e6)
        way = dice.random()
        value = low if way < 0.2 else high if way < 0.4 else dice.uniform(low, high)
        if way > 0.8:
            value = low + (high - low) * 10 ** dice.uniform(-9, 0)
        return round(value) if kind == "integer" else float(value)
    most = schema.get("maxLength", 40)
    length = most if dice.random() < 0.2 else int(dice.integers(schema.get("minLength", 0), min(most, 40) + 1))
    letters = dice.choice(LETTERS, size=max(1, int(dice.integers(1, 4))))
    return "".join(str(dice.choice(letters)) for _ in range(length))[:most]


def changed(data: Any, schema: dict[str, Any], dice: np.random.Generator, *, most: int = 4) -> Any:
    """Return a copy of some data in which one value or a few are others that the schema allows."""
    result = copy.deepcopy(data)
    found = [leaf for leaf in leaves(result, schema, schema) if "const" not in leaf[2] and "pattern" not in leaf[2]]
    for at in dice.choice(len(found), size=int(dice.integers(1, most + 1)), replace=False):
        place, key, part = found[int(at)]
        place[key] = another(part, dice)
    return result
