"""Writes docs/steps.md, docs/findings.md, the man page and the completions, from the declarations of steps, checks and
commands. Run it after changing one."""

from __future__ import annotations

import os
from pathlib import Path

import shtab
from argparse_manpage.manpage import Manpage

from unkelt.cli import parser
from unkelt.steps.steps import STEPS
from unkelt.survey.checks import CHECKS
from unkelt.survey.finding import question_of

HERE = Path(__file__).parent


def steps_page() -> str:
    lines = [
        "# Steps",
        "",
        "Made by `docs/make_reference.py` from the steps' own declarations. In a recipe, lengths are texts with a unit",
        '("0.2 mm"), and an option that is left out has its default. *Safe* steps are taken by "Mend what is safe" and by',
        "`unkelt mend`.",
        "",
    ]
    for step in STEPS.values():
        lines += [f"## `{step.name}`{' (safe)' if step.safe else ''}", "", step.promise, ""]
        lines += [f"Cures: {', '.join(f'`{code}`' for code in step.cures)}.", ""]
        if step.parameters:
            lines += ["| option | kind | default | what |", "| --- | --- | --- | --- |"]
            for p in step.parameters:
                kind = " or ".join(f"`{c}`" for c in p.choices) if p.choices else p.kind
                default = "none" if p.default is None else f"`{p.default}`"
                lines.append(f"| `{p.name}` | {kind} | {default} | {p.what} |")
            lines.append("")
    return "\n".join(lines)


def findings_page() -> str:
    lines = [
        "# Findings",
        "",
        "Made by `docs/make_reference.py` from the checks' own declarations.",
        "",
        "| question | code | what it finds | cured by |",
        "| --- | --- | --- | --- |",
    ]
    for check in CHECKS:
        for code in check.codes:
            cures = ", ".join(f"`{s.name}`" for s in STEPS.values() if code in s.cures) or "a person's choice"
            lines.append(f"| {question_of(code).value} | `{code}` | {check.what} | {cures} |")
    return "\n".join([*lines, ""])


PAGES = {"steps.md": steps_page, "findings.md": findings_page}

DESKTOP = HERE.parent / "desktop"


def man_page() -> str:
    os.environ["COLUMNS"] = "100"  # whatever terminal it is made in
    return str(Manpage(parser(), format="pretty", _data={"prog": "unkelt", "description": parser().description, "manual_title": "Unkelt"}))  # fmt: skip


def completion(shell: str) -> str:
    return shtab.complete(parser(), shell=shell)


if __name__ == "__main__":
    (DESKTOP / "unkelt.1").write_text(man_page(), encoding="utf-8")
    (DESKTOP / "unkelt").write_text(completion("bash"), encoding="utf-8")
    (DESKTOP / "_unkelt").write_text(completion("zsh"), encoding="utf-8")
    for name, page in PAGES.items():
        (HERE / name).write_text(page(), encoding="utf-8")
