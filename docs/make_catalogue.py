"""Writes everything that can be said into `unkelt.pot` (docs/translating.md).

What is given to `tr` and `say` is taken as it is. Of the rooms that say things without knowing a language, sentences
without gaps are taken, too.
"""

from __future__ import annotations

import ast
import datetime
import io
import itertools
import re
from collections.abc import Iterator
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.pofile import write_po

from unkelt.account.changes import Reason
from unkelt.desk.common.drawing import Lens
from unkelt.desk.views import View
from unkelt.formats.formats import READERS
from unkelt.job.machine import profiles
from unkelt.language import BUNDLED
from unkelt.proof.standin import stand_ins
from unkelt.session.entries import sentence
from unkelt.sheet.appearance import Operation
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Level

SOURCE = Path(__file__).parents[1] / "src" / "unkelt"
SPEAKING = (
    "errors.py",
    "units.py",
    "recipe.py",
    "judge.py",
    "sheet",
    "job",
    "anatomy",
    "account",
    "survey",
    "steps",
    "geometry",
    "lettering",
    "proof",
    "release",
    "app",
    "session",
    "formats",
    "report",
    "batch",
)
"""Rooms whose sentences come before people's eyes in the window."""

NAMING = ("survey", "steps", "session", "app", "release")
"""Of these, single words, too: names of rows, actions and states. Elsewhere a word by itself is a key."""


def main() -> None:
    catalogue = Catalog(project="Unkelt", charset="utf-8", fuzzy=False)
    for path in sorted(SOURCE.rglob("*.py")):
        place = str(path.relative_to(SOURCE))
        tree = ast.parse(path.read_text(encoding="utf-8"))
        room = place.split("/")[0]
        speaking = [words for words in spoken(tree) if room in NAMING or " " in words] if room in SPEAKING else []
        for words in (*marked(tree), *speaking):
            catalogue.add(words, locations=[(place, None)])
    for words in registered():
        catalogue.add(words)
    BUNDLED.mkdir(parents=True, exist_ok=True)
    file = io.BytesIO()
    catalogue.creation_date = datetime.datetime(2026, 1, 1, tzinfo=datetime.UTC)  # the same file for the same words
    write_po(file, catalogue, width=120, sort_output=True, omit_header=False)
    (BUNDLED / "unkelt.pot").write_bytes(file.getvalue())
    print(f"{len(catalogue)} sentences")


def registered() -> Iterator[str]:
    """What is known by its registry: steps with their options, machines, views, lenses."""
    for name, step in STEPS.items():
        yield from (step.title, sentence(name), *step.promise.split("\n\n"))
        for parameter in step.parameters:
            yield from (parameter.label, parameter.what)
            yield from parameter.choices
    yield from (each.value for kind in (Operation, Level, Reason) for each in kind)
    yield from (name.replace("-", " ") for name in profiles())
    yield from (words for each in stand_ins().values() for words in (each.name, each.says))
    yield from sorted({ending.removeprefix(".").upper() for ending in READERS})
    yield from (view.name.capitalize() for view in View)
    yield from (lens.value for lens in Lens)


SAID = {"tr": 1, "say": 1, "tr_count": 2, "say_count": 2}
"""What is called with a sentence first, and in how many forms."""
KEYS = {
    "get",
    "pop",
    "getattr",
    "setattr",
    "hasattr",
    "startswith",
    "endswith",
    "removeprefix",
    "removesuffix",
    "split",
}
KEYS |= {
    "compile",
    "fullmatch",
    "match",
    "sub",
    "findall",
    "search",
    "encode",
    "decode",
    "open",
    "TypeVar",
    "getLogger",
}
KEYS |= {"Topic", "TopicOfObjects", "replace", "read_text", "write_text", "files", "glob", "strip", "rstrip", "lstrip"}
"""What is called with keys, patterns and file names, which nobody reads."""


def marked(tree: ast.AST) -> Iterator[str | tuple[str, str]]:
    """What is given to `tr` and `say`, and to those that know two forms; where one of several is chosen there, each.
    And pairs of such forms that stand elsewhere.
    """
    for node in ast.walk(tree):
        name = called(node)
        if isinstance(node, ast.Call) and name in SAID and len(node.args) >= SAID[name]:
            forms = [list(constants(each)) for each in node.args[: SAID[name]]]
            if SAID[name] == 2 and forms[0] and forms[1]:
                yield forms[0][0], forms[1][0]
            elif SAID[name] == 1:
                yield from forms[0]
        elif isinstance(node, ast.Tuple):  # two forms that are kept for when they are counted
            texts = [each.value for each in node.elts if isinstance(each, ast.Constant) and isinstance(each.value, str)]
            yield from (pair for pair in itertools.pairwise(texts) if all(form.startswith("{count} ") for form in pair))


def constants(node: ast.AST) -> Iterator[str]:
    """A sentence that stands there, or each that may be chosen."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        yield node.value
    elif isinstance(node, ast.IfExp):
        yield from constants(node.body)
        yield from constants(node.orelse)


def called(node: ast.AST) -> str:
    if not isinstance(node, ast.Call):
        return ""
    return getattr(node.func, "id", "") or getattr(node.func, "attr", "")


def spoken(tree: ast.AST) -> Iterator[str]:
    """Sentences and words in the source that have no gaps: strings that are no docstrings, keys, patterns or names of
    files.
    """
    left_out: set[ast.AST] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            left_out.add(node.value)
        elif isinstance(node, ast.JoinedStr | ast.Subscript | ast.Compare | ast.MatchValue | ast.Assert):
            left_out |= set(ast.walk(node.slice if isinstance(node, ast.Subscript) else node))
        elif isinstance(node, ast.BinOp) and isinstance(node.op, ast.Div | ast.Mod):
            left_out |= set(ast.walk(node))
        elif called(node) in KEYS or called(node) in SAID:
            left_out |= set(node.args)  # type: ignore[attr-defined]
    for node in ast.walk(tree):
        text = node.value if isinstance(node, ast.Constant) and node not in left_out else None
        if isinstance(text, str) and has_words(text):
            yield text


KEY = re.compile(
    r"[<>_\\]|=\"|;$|^[#./@-]|^https?:|^\w+[.:/]\w|^[\w-]+\.\w+$|^[a-z]+-[a-z-]+$"
    r"|^[A-Za-z]+[A-Z]\w*$|^[^ ]*[{}]|^(Ctrl|Shift|Alt)\+|^%\("
)
"""A key, a path, a colour, markup or a format."""


def has_words(text: str) -> bool:
    """Whether people would read it."""
    return bool(re.search(r"[A-Za-zäöü]{2}", text)) and not KEY.search(text)


if __name__ == "__main__":
    main()
