"""One file of many, mended into another folder, and said in a row of the summary."""

from __future__ import annotations

import hashlib
import sys
import time
from dataclasses import dataclass
from pathlib import Path

from unkelt import __version__
from unkelt.app import work
from unkelt.batch.folder import Orders, Row, counted, files_in, orders_here, picture_of, size_of, workshop_for
from unkelt.errors import InputError
from unkelt.messages import say
from unkelt.recipe import dump_recipe
from unkelt.sheet.model import Sheet
from unkelt.survey.checks import survey


@dataclass(frozen=True, slots=True)
class Mending:
    """A file and where its result goes."""

    source: Path
    output: Path


def mark_of(orders: Orders) -> str:
    """Changes where the answers might."""
    said = [
        __version__,
        repr(orders.ticket),
        dump_recipe(orders.recipe) if orders.recipe else "",
        str(orders.page),
        repr(orders.faces),
    ]
    return hashlib.sha256("\0".join(said).encode()).hexdigest()[:16]


def mendings(source: Path, output: Path, ending: str) -> list[Mending]:
    """Where each file of a folder goes: to the same place below the other folder, with its own ending in the name where
    two would have one name. Raises InputError where the one folder lies in the other.
    """
    if output.resolve().is_relative_to(source.resolve()) or source.resolve().is_relative_to(output.resolve()):
        raise InputError(str(output), "and the folder that is read must lie apart, so that no original is written over")
    files = files_in(source)
    names: dict[Path, int] = {}
    for path in files:
        name = path.relative_to(source).with_suffix("")
        names[name] = names.get(name, 0) + 1
    found = []
    for path in files:
        name = path.relative_to(source).with_suffix("")
        stem = f"{name.name}-{path.suffix.lstrip('.').lower()}" if names[name] > 1 else name.name
        found.append(Mending(path, output / name.with_name(stem + ending)))
    return found


def mended(task: Mending) -> Row:
    """One file mended, written and surveyed again."""
    start = time.perf_counter()
    try:
        workshop, beside = workshop_for(task.source)
        if beside.words:
            print(say("unkelt: {source}: {words}", source=task.source, words=beside.words), file=sys.stderr)
        received = work.opened(task.source, workshop, orders_here().page)
        before = survey(received.sheet, workshop)
        case = work.mended(received, orders_here().recipe)
        task.output.parent.mkdir(parents=True, exist_ok=True)
        result = work.written(case, task.output)
    except InputError as problem:
        return Row(str(task.source), problem=str(problem))
    except OSError as problem:
        return Row(
            str(task.source),
            problem=say("{output}: can't be written: {strerror}", output=task.output, strerror=problem.strerror),
        )
    return Row(
        str(task.source),
        str(task.output),
        before=counted(before),
        after=counted(result.findings),
        holds=result.held,
        steps=tuple(stage.call.name for stage in case.done),
        refused=(*case.refused, *result.pictures),
        nodes=(_nodes(received.sheet), _nodes(case.sheet)),
        size_mm=size_of(case.sheet.drawn_box()),
        seconds=round(time.perf_counter() - start, 3),
        picture=picture_of(case.sheet),
    )


def _nodes(sheet: Sheet) -> int:
    return sum(outline.path.node_count for outline in sheet.outlines())
