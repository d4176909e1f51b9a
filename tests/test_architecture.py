"""The map of rooms is kept: arrows point downward, nothing goes in a circle, and core knows no Qt."""

import ast
import re
from pathlib import Path

import pytest

SRC = Path(__file__).parents[1] / "src" / "notcher"
# each room may know those after it, never one before it
CORE = ("teaching", "mixing", "catalogue", "ledger", "sheets", "formats", "parsing", "words", "proving", "synthesis",
        "hearing", "neck", "patterns", "theory", "score", "sound", "errors", "arrays")  # fmt: skip
UI = ("shell", "benches", "reel", "tab", "playback", "commands", "widgets", "state")
HOUSE = ("desktop", "cli", "__main__", "terminal", "batch", "doctor", "reference", "ui", "painting", "demo",
         "devices", "core")  # fmt: skip
MAY_KNOW = {
    "desktop": {"cli", "terminal"},
    "cli": {"core", "ui", "terminal", "reference"},  # ui only to open the window
    "terminal": {"core", "painting", "demo", "batch", "doctor", "reference"},
    "reference": set(),
    "batch": {"core"},
    "doctor": {"core", "painting", "devices"},
    "__main__": {"cli"},
    "ui": {"core", "painting", "devices", "demo"},
    "painting": {"core"},
    "demo": {"core"},
    "devices": {"core"},
    "core": set(),
}
MOST_LINES = 700
FILES = sorted(SRC.rglob("*.py"))


def module_of(file: Path) -> str:
    """Return a file's dotted name; a package's is its folder's."""
    parts = file.relative_to(SRC.parent).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


MODULES = {module_of(file): file for file in FILES}


def imported(file: Path) -> set[str]:
    """Every module a file imports, wherever in it the import stands: inside functions and for types alike."""
    names: set[str] = set()
    for node in ast.walk(ast.parse(file.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{file} imports relatively"
            names |= {node.module or ""} | {f"{node.module}.{alias.name}" for alias in node.names}
    return names


def known(file: Path) -> set[str]:
    """The modules of the house that a file imports."""
    return {name for name in imported(file) if name in MODULES} - {module_of(file), "notcher"}


def room(module: str, depth: int) -> str:
    """Return the part of a dotted name so many steps below `notcher`; empty when it is shorter."""
    parts = module.split(".")
    return parts[depth] if len(parts) > depth else ""


@pytest.mark.slow
@pytest.mark.parametrize("file", FILES, ids=lambda file: str(file.relative_to(SRC)))
def test_arrows_point_downward(file: Path) -> None:
    here = module_of(file)
    for there in known(file):
        house, other = room(here, 1), room(there, 1)
        if house and other and house != other:
            assert other in MAY_KNOW[house], f"{here} must not know {there}"
        for name, order in (("core", CORE), ("ui", UI)):
            if house == other == name and room(here, 2) in order and room(there, 2) in order:
                assert order.index(room(there, 2)) >= order.index(room(here, 2)), f"{here} must not know {there}"
        if house == other == "ui" and room(here, 2) == room(there, 2) == "benches" and room(there, 3):
            allowed = {room(here, 3), "context"}  # what every bench is given
            assert room(there, 3) in allowed, f"{here} must not know another bench: {there}"


@pytest.mark.slow
@pytest.mark.parametrize("file", FILES, ids=lambda file: str(file.relative_to(SRC)))
def test_qt_stays_where_it_belongs(file: Path) -> None:
    here = module_of(file)
    qt = [name for name in imported(file) if name.startswith("PyQt6")]
    if room(here, 1) in ("core", "cli", "terminal", "__main__"):
        assert not qt, f"{here} must not know Qt: {qt}"
    if room(here, 1) == "painting":
        assert not [name for name in qt if "QtWidgets" in name], f"{here} paints without widgets"


@pytest.mark.slow
@pytest.mark.outside(
    what="an order of rooms exists",
    source="A. Kahn, CACM 5, 1962; Python's ast",
    tolerance="exact",
    why="names",
    kind="derivation",
)
def test_nothing_goes_in_a_circle() -> None:
    """A. Kahn, "Topological sorting of large networks", CACM 5, 1962: take away what knows nothing that is left."""
    left = {name: known(file) - {name} for name, file in MODULES.items()}
    # a package's own list of names is no second module: what knows the package knows the modules that it lists
    packages = {name for name, file in MODULES.items() if file.name == "__init__.py"}
    left = {name: {there for there in knows if there not in packages} for name, knows in left.items()}
    while leaves := [name for name, knows in left.items() if not knows & left.keys()]:
        for name in leaves:
            del left[name]
    assert not left, f"these know each other in a circle: {sorted(left)}"


@pytest.mark.parametrize("file", FILES, ids=lambda file: str(file.relative_to(SRC)))
def test_no_file_is_too_long(file: Path) -> None:
    assert file.read_text("utf-8").count("\n") <= MOST_LINES


def test_the_window_stays_small() -> None:
    assert (SRC / "ui" / "shell" / "window.py").read_text("utf-8").count("\n") < 250


def test_nobody_below_the_shell_takes_the_window() -> None:
    for name, file in MODULES.items():
        if name.startswith("notcher.ui.") and not name.startswith("notcher.ui.shell"):
            assert not [there for there in imported(file) if there.startswith("notcher.ui.shell")], name


def test_the_check_itself_sees_imports_inside_functions_and_for_types(tmp_path: Path) -> None:
    file = tmp_path / "x.py"
    file.write_text(
        "from typing import TYPE_CHECKING\n"
        "if TYPE_CHECKING:\n    from notcher.ui.shell.program import Program\n"
        "def f():\n    if True:\n        from notcher.ui.shell import window\n"
    )
    assert {"notcher.ui.shell.window", "notcher.ui.shell.program"} <= imported(file)


NESTED = re.compile(
    r"\.exec\(|QEventLoop|processEvents|Q(Input|File)Dialog\.get|QMessageBox\.(question|information|warning|critical|about)"
)


def test_nothing_waits_in_a_loop_of_its_own() -> None:
    """A nested event loop lets the person go on while a handler waits: what it goes on with may be another document."""
    allowed = {"ui/shell/application.py"}  # the one loop there is
    for file in FILES:
        name = file.relative_to(SRC).as_posix()
        if name not in allowed:
            assert not NESTED.search(file.read_text("utf-8")), name
