"""The map of rooms is kept: arrows point downward, and core knows no Qt."""

import ast
from pathlib import Path

import pytest

SRC = Path(__file__).parents[1] / "src" / "notcher"
# each package may import those after it
ORDER = ["teaching", "ledger", "formats", "words", "proving", "hearing", "neck", "patterns", "theory", "score", "sound"]
BELOW_ALL = {"errors", "arrays"}


def imported(file: Path) -> set[str]:
    """Every module a file imports, wherever in it the import stands."""
    names: set[str] = set()
    for node in ast.walk(ast.parse(file.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{file} imports relatively"
            names |= {node.module or ""} | {f"{node.module}.{alias.name}" for alias in node.names}
    return names


CORE_FILES = sorted((SRC / "core").rglob("*.py"))


@pytest.mark.parametrize("file", CORE_FILES, ids=lambda file: str(file.relative_to(SRC)))
def test_core_arrows_point_downward(file: Path) -> None:
    here = file.relative_to(SRC / "core").parts[0].removesuffix(".py")
    for name in imported(file):
        assert not name.startswith("PyQt6"), f"core must not know Qt: {name}"
        if name.startswith("notcher."):
            assert name.startswith("notcher.core"), f"core must not know {name}"
            package = name.split(".")[2] if name.count(".") >= 2 else ""
            if package in ORDER and here in ORDER:
                assert ORDER.index(package) >= ORDER.index(here), f"{here} must not import {package}"
            if here in BELOW_ALL:
                assert package in BELOW_ALL | {""}


def test_devices_know_neither_the_window_nor_the_demo() -> None:
    for file in (SRC / "devices").rglob("*.py"):
        assert not [name for name in imported(file) if name.startswith(("notcher.ui", "notcher.demo"))]


def test_the_check_itself_sees_imports_inside_functions(tmp_path: Path) -> None:
    file = tmp_path / "x.py"
    file.write_text("def f():\n    if True:\n        from notcher.ui.shell import window\n")
    assert "notcher.ui.shell.window" in imported(file)
