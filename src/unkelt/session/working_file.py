"""The working file: a job as it lies on the desk, in an open container that any unzip tool opens.

    original/NAME    the file as it was received, to the last byte
    recipe.toml      the steps, as `unkelt mend --recipe` takes them
    ticket.toml      what the job asks for, where there is a ticket
    accepted.toml    findings accepted as they are, each with its reason
    guides.toml      where guide lines lie across the sheet, in mm
    current.svg      the sheet as it stands, for whoever has nothing but this file

Opening it runs the recipe on the original again, which gives the same sheet, text and all. Where it doesn't, because a
face is missing, the outlines of current.svg are taken instead.
"""

from __future__ import annotations

import io
import lzma
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path, PurePosixPath
from typing import TypeVar

import tomlkit

from unkelt.errors import InputError
from unkelt.formats.files import read_bytes, write_whole
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.job.schema import Numbers, Text, loads, structured
from unkelt.job.ticket import Ticket, parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.messages import say
from unkelt.outgoing import outgoing
from unkelt.recipe import applied, dump_recipe, parse_recipe, run
from unkelt.session.job import Job
from unkelt.session.snapping import Axis, GuideLine
from unkelt.sheet.model import Sheet

ENDING = ".unkelt"
T = TypeVar("T")

AXES: tuple[Axis, ...] = ("x", "y")
LARGEST = 1 << 30
"""No member unpacks to more than this many bytes."""

_DATE = (1980, 1, 1, 0, 0, 0)
"""The container's earliest: the same job always gives the same file."""


def _as_saved(job: Job) -> bytes:
    """The sheet as SVG has it, to know it again by; an empty page where it can't: the recipe still gives it."""
    try:
        return write_svg(outgoing(job.sheet, job.workshop))
    except InputError:
        return write_svg(Sheet(job.sheet.page_mm))


def save_working(job: Job, path: Path) -> None:
    """Writes the job, whole or not at all. Raises InputError."""
    members = {
        f"original/{job.path.name}": job.received if job.received is not None else read_bytes(job.path),
        "recipe.toml": dump_recipe(applied(list(job.stages))).encode(),
        "ticket.toml": job.ticket.source.encode(),
        "accepted.toml": tomlkit.dumps({"accepted": dict(job.accepted)}).encode() if job.accepted else b"",
        "guides.toml": _guides_toml(job.guides) if job.guides else b"",
        "current.svg": _as_saved(job),
    }
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as container:
        for name, data in members.items():
            if data:
                container.writestr(zipfile.ZipInfo(name, _DATE), data, zipfile.ZIP_DEFLATED)
    write_whole(path, file.getvalue(), never_over=job.path if job.received is None else None)


def comes_back_from(job: Job) -> Path:
    """The file that brings all of a job back: its working file, where it is saved in one as it stands."""
    return job.saved_path if job.saved and job.saved_path and job.saved_path.suffix == ENDING else job.path


def open_working(path: Path, shelf: Shelf) -> tuple[Job, str]:
    """The job of a working file, and a sentence where it could not be made again from its recipe. Raises InputError."""
    members = _members(path)
    original = next((name for name in members if name.startswith("original/")), None)
    if original is None or "current.svg" not in members:
        raise InputError(str(path), "is no working file: the original or the current sheet is missing in it")
    try:
        texts: dict[str, str] = {
            name: members[name].decode()
            for name in ("ticket.toml", "recipe.toml", "accepted.toml", "guides.toml")
            if name in members
        }
    except UnicodeDecodeError as problem:
        raise InputError(str(path), say("is damaged: {problem}", problem=problem)) from problem
    accepted = _toml(texts, "accepted.toml", path, _Accepted).accepted
    guides = _toml(texts, "guides.toml", path, _Guides).lines()
    ticket = (
        parse_ticket(texts["ticket.toml"], say("{path}: ticket.toml", path=path))
        if "ticket.toml" in texts
        else Ticket()
    )
    recipe = parse_recipe(texts.get("recipe.toml", ""), say("{path}: recipe.toml", path=path))
    workshop = Workshop(ticket, shelf)
    name = PurePosixPath(original).name
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / name
        source.write_bytes(members[original])
        sheet = read_sheet(source)
    sheet = replace(sheet, source=replace(sheet.source, name=name))
    stages = tuple(run(recipe, sheet, workshop))
    job = Job(
        path.with_name(name),
        sheet,
        workshop,
        stages,
        accepted=accepted,
        received=members[original],
        guides=guides,
        saved_stages=stages,
        saved_path=path,
    )
    if _as_saved(job) == members["current.svg"]:
        return job, ""
    missing = next((stage.skipped for stage in stages if stage.skipped), "another result")
    as_saved = parse_svg(members["current.svg"], name)
    words = say(
        "{name}: its recipe can't be followed here ({missing}); the outlines are taken as they were saved.",
        name=path.name,
        missing=missing,
    )
    return replace(job, original=as_saved, stages=(), saved_stages=()), words


def _guides_toml(guides: Sequence[GuideLine]) -> bytes:
    return tomlkit.dumps({axis: [each.mm for each in guides if each.axis == axis] for axis in AXES}).encode()


@dataclass(frozen=True, slots=True)
class _Accepted:
    accepted: dict[str, Text] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class _Guides:
    x: Numbers = ()
    y: Numbers = ()

    def lines(self) -> tuple[GuideLine, ...]:
        return (*(GuideLine("x", mm) for mm in self.x), *(GuideLine("y", mm) for mm in self.y))


def _toml(texts: Mapping[str, str], name: str, path: Path, kind: type[T]) -> T:
    """A member of the container as the dataclass that it fills in. Raises InputError."""
    return structured(loads(texts.get(name, ""), f"{path}: {name}"), f"{path}: {name}", kind)


def _members(path: Path) -> dict[str, bytes]:
    try:
        with zipfile.ZipFile(io.BytesIO(read_bytes(path))) as container:
            if any(info.file_size > LARGEST for info in container.infolist()):
                raise InputError(
                    str(path), say("unpacks to more than {largest} MiB, which no job does", largest=LARGEST >> 20)
                )
            return {
                info.filename: container.read(info)
                for info in container.infolist()
                if info.filename and not info.is_dir()
            }
    except (
        zipfile.BadZipFile,
        zlib.error,
        lzma.LZMAError,
        struct.error,
        NotImplementedError,
        RuntimeError,
        EOFError,
        OSError,
        ValueError,
    ) as problem:
        raise InputError(str(path), say("is no working file, or damaged: {problem}", problem=problem)) from problem
