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
from unkelt.survey.finding import Question, question_of

HERE = Path(__file__).parent


def steps_page() -> str:
    lines = [
        "# Steps",
        "",
        "Made by `docs/make_reference.py` from the steps' own declarations. In a recipe, lengths are texts with a unit",
        '("0.2 mm"), and an option that is left out has its default. *Safe* steps are taken by "Mend what is safe" and',
        "by `unkelt mend`.",
        "",
    ]
    for step in STEPS.values():
        lines += [f"## `{step.name}`{' (safe)' if step.safe else ''}", "", step.promise, ""]
        if step.codes:
            lines += [f"Cures {', '.join(f'`{code}`' for code in step.codes)}.", ""]
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
            cures = ", ".join(f"`{s.name}`" for s in STEPS.values() if code in s.codes) or "a person's choice"
            lines.append(f"| {question_of(code).value} | `{code}` | {check.what} | {cures} |")
    lost = (
        "Something that was painted in the received file is missing or different, and no step declares the change. "
        "Unkelt compares both sheets, and the pictures of both files."
    )
    lines.append(f"| {question_of('ink.lost').value} | `ink.lost` | {lost} | undo |")
    return "\n".join([*lines, ""])


APART = {
    "text.font-missing": (
        "The face of this text is not installed. Unkelt doesn't replace it, because another face has other widths "
        "and shapes."
    ),
    "text.glyph-missing": "The face doesn't have this character. It would arrive as an empty box or not at all.",
    "text.empty": (
        "A text object without ink. There is nothing to cut, but it takes room and may trouble importing software."
    ),
    "content.picture": "A picture made of pixels has no line to follow.",
    "content.hidden": "A hidden item. Some importing software shows it, and the machine cuts it.",
    "content.effect": "A clip, mask, filter, gradient, pattern or marker. Importing software drops or misreads it.",
    "content.css": "Colours, places or shapes are said by CSS that came after SVG 1.1: read here, and not everywhere.",
    "content.left-out": "A part of the file that could not be read, and is not on the sheet.",
    "content.pages": "The file has other pages, which were not read.",
    "content.reference": "A reference that leads nowhere, or to another file that isn't sent along.",
    "fine.stroke": "A part thinner than the ticket's limit. It lifts during weeding, or burns away.",
    "fine.gap": "A slit narrower than the ticket's limit. It closes up, or can't be weeded.",
    "place.off-page": "A part lies outside the page. Importing software may cut it off or leave it behind.",
    "place.page-loose": "The page is far larger than the drawing. Importing software may show the size of the page.",
    "place.bed": "The sheet is larger than the bed of the machine in the ticket.",
    "line.colour-unknown": "The ticket's key doesn't have this colour, so nobody can say what the line is for.",
    "line.colour-near": (
        "Two colours that hardly differ. Importing software may take them for one, or for two operations."
    ),
    "line.width": "A cut line thicker than a hairline. Some machines engrave it as an area.",
    "line.mixed": "Both fill and stroke are painted, so the operation is ambiguous.",
}
"""What single codes mean, where one check finds several."""


def guide_page() -> str:
    """Every finding with what it means at the machine and what mends it: what the window opens."""
    lines = ["# What is found, and what to do", ""]
    for question in Question:
        lines += [f"## {question.value}", ""]
        for check in CHECKS:
            for code in check.codes:
                if question_of(code) is not question:
                    continue
                lines += [f"### {code}", "", APART.get(code, check.what), ""]
                cures = [step for step in STEPS.values() if code in step.codes]
                for step in cures:
                    safe = " It is a safe step." if step.safe else ""
                    promise = " ".join(step.promise.split("\n\n")[0].split())
                    lines += [f"- **{step.title}** (`{step.name}`): {promise}{safe}"]
                lines += [""] if cures else ["You decide what to do.", ""]
    return "\n".join(lines)


PAGES = {"steps.md": steps_page, "findings.md": findings_page, "guide/5-findings.md": guide_page}

DESKTOP = HERE.parent / "src" / "unkelt" / "assets" / "desktop"


def man_page() -> str:
    os.environ["COLUMNS"] = "100"  # whatever terminal it is made in
    return str(
        Manpage(
            parser(),
            format="pretty",
            _data={
                "prog": "unkelt",
                "description": parser().description,
                "manual_title": "Unkelt",
                "include": str(HERE.parent / "packaging" / "manual.include"),
            },
        )
    )


def completion(shell: str) -> str:
    return shtab.complete(parser(), shell=shell)


if __name__ == "__main__":
    (DESKTOP / "unkelt.1").write_text(man_page(), encoding="utf-8")
    (DESKTOP / "unkelt").write_text(completion("bash"), encoding="utf-8")
    (DESKTOP / "_unkelt").write_text(completion("zsh"), encoding="utf-8")
    for name, page in PAGES.items():
        (HERE / name).write_text(page(), encoding="utf-8")
