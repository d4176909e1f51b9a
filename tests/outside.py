"""What the tests hold to things that others have written: read from their marks; `./dev checks` writes the page."""

import ast
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from house import PICTURE, picture

HERE = Path(__file__).parent
PAGE = HERE.parent / "docs" / "outside-checks.md"
COUNTED = {
    "library": "an independent library or tool",
    "standard": "a standard, or data that a package ships",
    "derivation": "a derivation from a published formula or definition",
}
NOT_COUNTED = {"memory": "figures from memory", "practice": "common practice, no source"}


@dataclass(frozen=True)
class Outside:
    """One mark: the test that bears it, and what it says."""

    test: str
    what: str
    source: str
    tolerance: str
    why: str
    kind: str


def outside_checks(folder: Path = HERE) -> list[Outside]:
    """Return every mark of the tests, by file and line."""
    return [mark for path in sorted(folder.rglob("test_*.py")) for mark in _marks(path, folder)]


def _marks(path: Path, folder: Path) -> Iterator[Outside]:
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if not isinstance(node, ast.FunctionDef):
            continue
        for mark in node.decorator_list:
            if isinstance(mark, ast.Call) and ast.unparse(mark.func) == "pytest.mark.outside":
                said = {str(word.arg): ast.literal_eval(word.value) for word in mark.keywords}
                yield Outside(f"{path.relative_to(folder)}::{node.name}", **said)


def page(checks: list[Outside]) -> str:
    """Return the page: what is counted by kind, then what is not."""
    counted = [check for check in checks if check.kind in COUNTED]
    lines = [
        "# Held to what others have written",
        "",
        f"Made from the marks in the tests by `./dev checks`: {len(counted)} facts are checked against something",
        "outside this project. What is remembered or common practice stands below and is not counted.",
    ]
    for kind, title in (COUNTED | NOT_COUNTED).items():
        of_kind = [check for check in checks if check.kind == kind]
        lines += ["", f"## {title[0].upper()}{title[1:]}: {len(of_kind)}", ""]
        lines += ["| what | held to | tolerance | why so much | test |", "| --- | --- | --- | --- | --- |"]
        lines += [f"| {c.what} | {c.source} | {c.tolerance} | {c.why} | `{c.test}` |" for c in of_kind]
    return "\n".join([*lines, ""])


if __name__ == "__main__":
    found = outside_checks()
    PAGE.write_text(page(found), "utf-8")
    PICTURE.write_text(picture(), "utf-8")
    print(f"{len(found)} checks are told in {PAGE.name}")
