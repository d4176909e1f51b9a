"""Small faults planted in the source, by a seed: what a slip of a finger or of a thought makes of a line.

Sources of the operators: R. DeMillo, R. Lipton and F. Sayward, "Hints on test data selection", Computer 11, 1978; of
taking a sample of them: A. Acree, "On mutation", 1980.
"""

import ast
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

COMPARED = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==", ast.Is: "is not",
            ast.IsNot: "is", ast.In: "not in", ast.NotIn: "in"}  # fmt: skip
RECKONED = {ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*", ast.FloorDiv: "*", ast.Mod: "*", ast.Pow: "*",
            ast.BitAnd: "|", ast.BitOr: "&"}  # fmt: skip
NAMES = {"min": "max", "max": "min", "any": "all", "all": "any", "minimum": "maximum", "maximum": "minimum",
         "argmin": "argmax", "argmax": "argmin", "floor": "ceil", "ceil": "floor"}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Mutant:
    """One planted fault. start, stop: where in the file, characters. text: what stands there then. code: its line."""

    file: Path
    line: int
    start: int
    stop: int
    text: str
    before: str
    code: str

    def applied(self, source: str) -> str:
        return source[: self.start] + self.text + source[self.stop :]

    def __str__(self) -> str:
        return f"`{self.before}` → `{self.text}`"


def mutants_of(file: Path) -> list[Mutant]:
    """Return every fault that can be planted in a file."""
    source = file.read_text("utf-8")
    tree = ast.parse(source)
    starts = [0]
    for line in source.splitlines(keepends=True):
        starts.append(starts[-1] + len(line))
    lines = source.splitlines()

    def at(line: int, column: int) -> int:
        return starts[line - 1] + len(lines[line - 1].encode("utf-8")[:column].decode("utf-8"))

    mutants = []
    for node in _live(tree):
        for first, last, text in _faults(node, source, at):
            before = source[first:last]
            if before.strip() and before != text:
                code = lines[node.lineno - 1].strip()
                mutants.append(Mutant(file, node.lineno, first, last, text, " ".join(before.split())[:60], code))
    return mutants


def _live(tree: ast.Module) -> Iterator[ast.expr | ast.stmt]:
    """The nodes whose change could be noticed: no annotations, docstrings, messages of errors, or checks for types."""
    dead: set[ast.AST] = set()
    for node in ast.walk(tree):
        for field in ("annotation", "returns", "decorator_list", "bases", "exc"):
            value = getattr(node, field, None)
            for part in value if isinstance(value, list) else [value] if value is not None else []:
                dead |= set(ast.walk(part))
        if isinstance(node, ast.If) and "TYPE_CHECKING" in ast.dump(node.test):
            dead |= set(ast.walk(node))
        if isinstance(node, ast.JoinedStr):
            dead |= set(ast.walk(node))
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            dead |= set(ast.walk(node))
        if isinstance(node, ast.Assign) and any(getattr(target, "id", "") == "__all__" for target in node.targets):
            dead |= set(ast.walk(node))
    for node in ast.walk(tree):
        if node not in dead and isinstance(node, ast.expr | ast.stmt):
            yield node


def _faults(node: ast.expr | ast.stmt, source: str, at) -> Iterator[tuple[int, int, str]]:  # type: ignore[no-untyped-def]
    """What can be put in the place of a node, or of its operator."""

    def between(left: ast.expr, right: ast.expr, text: str) -> tuple[int, int, str]:
        first, last = at(left.end_lineno, left.end_col_offset), at(right.lineno, right.col_offset)
        gap = source[first:last]
        opened = gap.rstrip()[len(gap.rstrip().rstrip("(")) :] if gap.rstrip().endswith("(") else ""
        closed = gap[: len(gap) - len(gap.lstrip(" )\n"))] if gap.lstrip().startswith(")") else " "
        return first, last, f"{closed}{text} {opened}"

    whole = at(node.lineno, node.col_offset), at(node.end_lineno, node.end_col_offset)
    if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in COMPARED:
        yield between(node.left, node.comparators[0], COMPARED[type(node.ops[0])])
    elif isinstance(node, ast.BinOp) and type(node.op) in RECKONED:
        yield between(node.left, node.right, RECKONED[type(node.op)])
    elif isinstance(node, ast.BoolOp):
        text = "or" if isinstance(node.op, ast.And) else "and"
        for left, right in zip(node.values, node.values[1:], strict=False):
            yield between(left, right, text)
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub):
        yield *whole, f"({source[at(node.operand.lineno, node.operand.col_offset) : whole[1]]})"
    elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
        yield *whole, str(not node.value)
    elif isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
        yield *whole, repr(node.value + 1 if isinstance(node.value, int) else node.value * 2 if node.value else 1.0)
    elif isinstance(node, ast.Name) and node.id in NAMES and isinstance(node.ctx, ast.Load):
        yield *whole, NAMES[node.id]
    elif isinstance(node, ast.Attribute) and node.attr in NAMES:
        yield whole[1] - len(node.attr), whole[1], NAMES[node.attr]
    elif isinstance(node, ast.If | ast.IfExp | ast.While):
        first, last = (at(node.test.lineno, node.test.col_offset), at(node.test.end_lineno, node.test.end_col_offset))
        yield first, last, f"not ({source[first:last]})"
    elif isinstance(node, ast.Return) and node.value is not None and not isinstance(node.value, ast.Constant):
        first, last = at(node.value.lineno, node.value.col_offset), whole[1]
        yield first, last, "None"
    elif isinstance(node, ast.AugAssign) or (isinstance(node, ast.Expr) and isinstance(node.value, ast.Call)):
        yield *whole, "pass"
    elif isinstance(node, ast.Continue):
        yield *whole, "break"
    elif isinstance(node, ast.Break):
        yield *whole, "continue"


def sampled(files: list[Path], count: int, seed: int) -> list[Mutant]:
    """Return a number of faults, each as likely as another, that are Python still; by a seed."""
    every = [mutant for file in sorted(files) for mutant in mutants_of(file)]
    dice, chosen = np.random.default_rng(seed), []
    for index in dice.permutation(len(every)):
        mutant = every[index]
        try:
            compile(mutant.applied(mutant.file.read_text("utf-8")), str(mutant.file), "exec")
        except SyntaxError:
            continue
        chosen.append(mutant)
        if len(chosen) == count:
            break
    return chosen
