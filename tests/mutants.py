"""Takes out each refusal of the judges in turn, and says which of them no test notices.

`python -m tests.mutants [MODULE …]` works on a copy: every `if` that ends by raising is never entered there, one at a
time, and the tests of that room are run until one fails. So is every part of what two things must have in common to be
the same. A refusal that survives is said with its place. Without modules, all of `JUDGES`.
"""

from __future__ import annotations

import ast
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

TOP = Path(__file__).parents[1]
LYING = "tests/account/test_lying_engines.py"
WELDS = [
    f"tests/geometry/test_{name}.py" for name in ("weld", "weld_together", "combine", "redrawing", "let_in", "chords")
]
REDUCTIONS = ["tests/geometry/test_reduce.py", "tests/geometry/test_merge.py"]
DAMAGE = "tests/account/test_silent_damage.py"
JUDGES = {
    "src/unkelt/geometry/boolean": [LYING, *WELDS],
    "src/unkelt/geometry/offset": [LYING, "tests/geometry/test_offset.py"],
    "src/unkelt/geometry/reduce": [LYING, *REDUCTIONS],
    "src/unkelt/geometry/orient.py": [LYING, "tests/survey/test_lines_and_places.py"],
    "src/unkelt/account/balance.py": [LYING, DAMAGE],
    "src/unkelt/account/whole.py": [LYING, DAMAGE, "tests/account/test_one_verdict.py"],
    "src/unkelt/recipe.py:_balance": [LYING, DAMAGE],
}
"""What judges, and the tests that would notice that a refusal is gone: those of lying engines first, since they are
quick."""


LONGEST_S = 240
"""No room's tests take longer while all is well."""


@dataclass(frozen=True)
class Mutant:
    """A condition of a judge, and what stands in its place."""

    condition: ast.expr
    instead: str

    @property
    def words(self) -> str:
        return f"{' '.join(ast.unparse(self.condition).split())[:90]} → {self.instead}"

    def of(self, source: str) -> str:
        """The source with it."""
        node, lines = self.condition, source.encode().split(b"\n")
        first, last = node.lineno - 1, (node.end_lineno or node.lineno) - 1
        head, tail = lines[first][: node.col_offset], lines[last][node.end_col_offset :]
        return b"\n".join([*lines[:first], head + self.instead.encode() + tail, *lines[last + 1 :]]).decode()


def mutants(source: str, function: str = "") -> Iterator[Mutant]:
    """Every `if` that ends by raising, never entered; every part of what a function named `_same…` answers, taken for
    true; everything that is passed on as found, left out. All of the source, or of one function.
    """
    for part in ast.walk(ast.parse(source)):
        if not isinstance(part, ast.FunctionDef) or (function and part.name != function):
            continue
        for node in ast.walk(part):
            if isinstance(node, ast.If) and isinstance(node.body[-1], ast.Raise):
                yield Mutant(node.test, "False")
            if isinstance(node, ast.YieldFrom):
                yield Mutant(node.value, "()")
            if isinstance(node, ast.Return) and isinstance(node.value, ast.BoolOp) and part.name.startswith("_same"):
                yield from (Mutant(each, "True") for each in node.value.values)


def survives(folder: Path, tests: list[str]) -> bool:
    """Whether all tests pass on the copy in a folder."""
    env = os.environ | {"PYTHONPATH": f"{folder / 'src'}{os.pathsep}{folder}", "QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *tests]
    try:
        run = subprocess.run(command, cwd=folder, env=env, capture_output=True, check=False, timeout=LONGEST_S)
    except subprocess.TimeoutExpired:  # without its bound, something goes on for ever: that is noticed
        return False
    return run.returncode == 0


def main(wanted: list[str]) -> int:
    left = tried = 0
    with tempfile.TemporaryDirectory() as name:
        copy = Path(name)
        for part in ("src", "tests"):
            shutil.copytree(TOP / part, copy / part, ignore=shutil.ignore_patterns("__pycache__"))
        shutil.copy(TOP / "pyproject.toml", copy)
        for judge, tests in JUDGES.items():
            place, _, function = judge.partition(":")
            files = [copy / place] if place.endswith(".py") else sorted((copy / place).glob("*.py"))
            for path in files:
                shown = str(path.relative_to(copy))
                if wanted and not any(each in shown for each in wanted):
                    continue
                source = path.read_text(encoding="utf-8")
                for mutant in mutants(source, function):
                    path.write_text(mutant.of(source), encoding="utf-8")
                    survived = survives(copy, tests)
                    path.write_text(source, encoding="utf-8")
                    tried, left = tried + 1, left + survived
                    said = "SURVIVES" if survived else "noticed"
                    print(f"{said}  {shown}:{mutant.condition.lineno}  {mutant.words}", flush=True)
    print(f"{tried} refusals taken out, {left} of them noticed by no test")
    return int(left > 0)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
