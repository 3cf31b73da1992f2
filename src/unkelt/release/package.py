"""The package: files, inspection sheet, recipe, ticket and the untouched original in one folder, whole or not at
all.
"""

from __future__ import annotations

import contextlib
import datetime
import hashlib
import os
import shutil
import tempfile
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from unkelt.errors import InputError, UnkeltError
from unkelt.formats.files import put
from unkelt.formats.formats import WRITERS, write_sheet
from unkelt.job.destination import Destination
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.language import languages as known_languages
from unkelt.messages import say
from unkelt.outgoing import outgoing
from unkelt.proof.proof import Proof, prove
from unkelt.recipe import applied, dump_recipe
from unkelt.release.delivering import delivered, in_package
from unkelt.release.file_names import FORMATS, PATTERN
from unkelt.release.preview import preview_png
from unkelt.release.record import ENGLISH, Record
from unkelt.release.sheets import by_operations, slug
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.checks import survey
from unkelt.verdict.case import Case
from unkelt.verdict.judge import findings_of
from unkelt.verdict.painted import held_by, pictures_of


class Held(UnkeltError):
    """Something holds, and no reason was given to release over it."""

    def __init__(self, source: str, holds: Sequence[str]) -> None:
        self.holds = tuple(holds)
        more = say(" (and {count} more)", count=len(holds) - 1) if len(holds) > 1 else ""
        super().__init__(
            say(
                "{source}: is not released, since it is on hold: {holds}{more}",
                source=source,
                holds=holds[0],
                more=more,
            )
        )


@dataclass(frozen=True, slots=True)
class Package:
    """Where it lies, what is in it, and what could not be written, each with its reason."""

    folder: Path
    record: Record
    left_out: tuple[str, ...] = ()

    @property
    def names(self) -> list[str]:
        """What lies in its folder: the inspection sheet first, which is what somebody has to sign."""
        sheet = ["inspection.pdf", "inspection.html"]
        return [*sheet, *sorted(name for name in self.record.sums if "/" not in name), "SHA256SUMS"]


def release(
    case: Case,
    to: Path,
    destinations: Sequence[Destination] | None = None,
    *,
    reason: str = "",
    pattern: str = PATTERN,
    ticket_text: bytes = b"",
    zipped: bool = False,
    languages: Sequence[str] = ENGLISH,
    now: datetime.datetime | None = None,
    progress: Callable[[float, str], None] = lambda _share, _words: None,
) -> Package:
    """Writes the package into a new folder of `to`. Nothing that is there is written over: a revision is added.

    It goes to the destinations given, else to those of the ticket, else into the package itself in all formats. The
    folder appears under its name only when all of it is written and read back. Raises Held where something holds and no
    `reason` is given, InputError where a file can't be written. `zipped` adds the whole package as one zip beside it.
    The inspection sheet is in `languages`, one after the other, by their codes.
    """
    for code in languages:
        if code not in known_languages():
            known = ", ".join(known_languages())
            raise InputError(code, say("is no language that an inspection sheet can be in ({known})", known=known))
    workshop, original, data = case.workshop, case.original, case.data
    if destinations is None:
        destinations = workshop.ticket.destinations or in_package(FORMATS)
    sheet = released(case.sheet, workshop)
    progress(0.1, "Checking")
    before, after = survey(original, workshop), findings_of(case)
    made = now or datetime.datetime.now()
    record = Record(
        case.source.name, workshop, original, sheet, case.stages, before, after, made, reason=reason.strip()
    )
    part = _begun(to)
    try:
        written = delivered(
            part,
            record.title,
            sheet,
            workshop,
            destinations,
            record.holds,
            lambda share, words: progress(0.2 + 0.5 * share, words),
        )
        as_svg = WRITERS[".svg"](by_operations(sheet, workshop), workshop.ticket)
        pictures = (*held_by(pictures_of(case, as_svg)), *written.pictures)
        received = _received(original, workshop.ticket)
        record = replace(record, delivered=written.delivered, pictures=pictures, received=received)
        if record.holds and not record.reason:
            raise Held(case.source.name, record.holds)
        progress(0.7, "Writing the inspection sheet")
        folder, record = _named(to, record, pattern)
        record = _with_papers(part, case, record, data, ticket_text, languages)
        _appear(part, folder, zipped=zipped)
    except OSError as problem:
        raise InputError(str(to), say("can't be written: {value}", value=problem.strerror or problem)) from problem
    finally:
        shutil.rmtree(part, ignore_errors=True)
    return Package(folder, record, written.left_out)


def _begun(to: Path) -> Path:
    """A folder for what is under way. Raises InputError."""
    try:
        to.mkdir(parents=True, exist_ok=True)
        return Path(tempfile.mkdtemp(dir=to, prefix=".release-", suffix=".part"))
    except OSError as problem:
        raise InputError(str(to), say("can't be written: {strerror}", strerror=problem.strerror)) from problem


def _appear(part: Path, folder: Path, *, zipped: bool) -> None:
    """What was written under a hidden name is there under its own, and so is the zip of it."""
    os.chmod(part, 0o755)
    packed = _zip(part, folder.name) if zipped else None
    os.rename(part, folder)  # the one moment at which it appears
    if packed is not None:
        os.replace(packed, folder.with_name(f"{folder.name}.zip"))
    _flush_folder(folder.parent)


def _with_papers(
    part: Path, case: Case, record: Record, data: bytes, ticket_text: bytes, languages: Sequence[str]
) -> Record:
    """Writes what goes with the files: the original, recipe and ticket, a picture, the inspection sheet and the sums,
    which the record has from then on.
    """
    if data:
        put(part / "original" / case.source.name, data)
    put(part / "recipe.toml", dump_recipe(applied(list(case.stages))).encode())
    if ticket_text:
        put(part / "ticket.toml", ticket_text)
    from unkelt.release.inspection import inspection_html, inspection_pdf  # whose libraries take a while to import

    preview = preview_png(record.sheet)
    put(part / "preview.png", preview)
    record = replace(record, sums=_sums(part))
    put(part / "inspection.html", inspection_html(record, languages))
    put(part / "inspection.pdf", inspection_pdf(record, preview, languages))
    put(part / "SHA256SUMS", "".join(f"{total}  {name}\n" for name, total in _sums(part).items()).encode())
    return record


def released(sheet: Sheet, workshop: Workshop) -> Sheet:
    """The sheet as it can be written, without what is only of use here: what outlines were made from."""
    sheet = outgoing(sheet, workshop)
    return sheet.mapped(lambda item: replace(item, origin=None) if isinstance(item, Outline) else item)


def _received(original: Sheet, ticket: Ticket) -> Proof | None:
    """What would have come in, had nothing been done."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "received.svg"
        try:
            write_sheet(original, path, ticket)
            return prove(path, ticket)
        except InputError:
            return None


def _zip(part: Path, name: str) -> Path:
    """The package as one zip, under a hidden name beside it."""
    packed = part.with_suffix(".zip")
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in sorted(part.rglob("*")):
            if path.is_file():
                archive.write(path, f"{name}/{path.relative_to(part)}")
    return packed


def _named(to: Path, record: Record, pattern: str) -> tuple[Path, Record]:
    """The first name that is free, and the revision it stands for."""
    for revision in range(1, 10_000):
        size = "x".join(f"{value:.0f}" for value in record.size_mm)
        fields = {
            "job": slug(record.title),
            "source": slug(Path(record.source).stem),
            "size": size,
            "date": f"{record.made:%Y-%m-%d}",
            "revision": revision,
        }
        try:
            name = pattern.format(**fields)
        except (KeyError, IndexError, ValueError) as problem:
            raise InputError(
                pattern, say("is no pattern of names; it may hold {listed}", listed=", ".join(fields))
            ) from problem
        name = name if "{revision" in pattern or revision == 1 else f"{name}-r{revision}"
        if not (to / slug(name)).exists():
            return to / slug(name), replace(record, revision=revision)
    raise InputError(str(to), "holds ten thousand revisions of this job")


def _sums(folder: Path) -> dict[str, str]:
    files = sorted(path for path in folder.rglob("*") if path.is_file())
    return {str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest() for path in files}


def _flush_folder(folder: Path) -> None:
    with contextlib.suppress(OSError):  # not every file system can
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
