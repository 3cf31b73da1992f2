"""Writes everything that can be said into `unkelt.pot`, and the sentences with gaps into `templates.txt`
(docs/translating.md).

`tr("…")` is taken as it is. Of the rooms that say things without knowing a language, every sentence in the source is
taken: an f-string as a template with its gaps numbered.
"""

from __future__ import annotations

import ast
import datetime
import io
import re
from collections.abc import Iterator
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.pofile import write_po

from unkelt.desk.common.drawing import Lens
from unkelt.desk.views import View
from unkelt.job.machine import profiles
from unkelt.language import BUNDLED, TEMPLATES
from unkelt.proof.standin import stand_ins
from unkelt.session.entries import sentence
from unkelt.steps.steps import STEPS

SOURCE = Path(__file__).parents[1] / "src" / "unkelt"
SPEAKING = (
    "errors.py",
    "units.py",
    "recipe.py",
    "judge.py",
    "sheet",
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


def main() -> None:
    catalogue = Catalog(project="Unkelt", charset="utf-8", fuzzy=False)
    templates: set[str] = set()
    for path in sorted(SOURCE.rglob("*.py")):
        place = str(path.relative_to(SOURCE))
        tree = ast.parse(path.read_text(encoding="utf-8"))
        if place.startswith("desk"):
            for words in marked(tree):
                catalogue.add(words, locations=[(place, None)])
        elif place.split("/")[0] in SPEAKING:
            for words in spoken(tree):
                catalogue.add(words, locations=[(place, None)])
                if re.search(r"{\d+}", words):
                    templates.add(words)
    for words in registered():
        catalogue.add(words)
    BUNDLED.mkdir(parents=True, exist_ok=True)
    file = io.BytesIO()
    catalogue.creation_date = datetime.datetime(2026, 1, 1, tzinfo=datetime.UTC)  # the same file for the same words
    write_po(file, catalogue, width=120, sort_output=True, omit_header=False)
    (BUNDLED / "unkelt.pot").write_bytes(file.getvalue())
    lines = sorted(words.replace("\n", "\\n") for words in templates)
    TEMPLATES.write_text("\n".join(lines) + "\n", encoding="utf-8")
    print(f"{len(catalogue)} sentences, {len(lines)} of them with gaps")


def registered() -> Iterator[str]:
    """What is known by its registry: steps with their options, machines, views, lenses."""
    for name, step in STEPS.items():
        yield from (step.title, sentence(name), *step.promise.split("\n\n"))
        for parameter in step.parameters:
            yield from (parameter.name, parameter.name.replace("_", " "), parameter.what)
            yield from parameter.choices
    yield from (name.replace("-", " ") for name in profiles())
    yield from (words for each in stand_ins().values() for words in (each.name, each.says))
    yield from (view.name.capitalize() for view in View)
    yield from (lens.value for lens in Lens)


def marked(tree: ast.AST) -> Iterator[str | tuple[str, str]]:
    """What is given to `tr` and `tr_count`."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("tr", "tr_count"):
            words = [each.value for each in node.args if isinstance(each, ast.Constant) and isinstance(each.value, str)]
            if words:
                yield (words[0], words[1]) if node.func.id == "tr_count" else words[0]


def spoken(tree: ast.AST) -> Iterator[str]:
    """Sentences and names in the source: strings with words in them that are neither docstrings nor keys."""
    within: set[ast.AST] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            within |= set(node.values)
            words = template(node)
            if has_words(re.sub(r"{\d+}", " ", words)):
                yield words
        elif isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            within.add(node.value)
        elif (
            isinstance(node, ast.Constant)
            and isinstance(node.value, str)
            and node not in within
            and has_words(node.value)
        ):
            yield node.value


def template(node: ast.JoinedStr) -> str:
    parts, gaps = [], 0
    for each in node.values:
        if isinstance(each, ast.Constant):
            parts.append(str(each.value).replace("{", "{{").replace("}", "}}"))
        else:
            parts.append(f"{{{gaps}}}")
            gaps += 1
    return "".join(parts)


def has_words(text: str) -> bool:
    """Whether people would read it: not a key, a path, a colour, markup or a format."""
    return bool(re.search(r"[A-Za-zäöü]{2}", text)) and not re.search(
        r"[<>_\\]|=\"|;$|^[#./@-]|^https?:|^\w+[.:/]\w", text
    )


if __name__ == "__main__":
    main()
