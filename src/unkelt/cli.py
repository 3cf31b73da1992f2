"""The command line: a contract that scripts depend on. Errors become one line on stderr here, and exit status 2."""

from __future__ import annotations

import argparse
import json
import logging
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from unkelt import __version__
from unkelt.batch.folder import Checked, Orders, Row
from unkelt.batch.summary import as_json, as_text
from unkelt.commands import check_many, listed, make_series, mend_folder, watch, write_tables
from unkelt.errors import UnkeltError
from unkelt.formats.files import write_whole
from unkelt.formats.formats import read_sheet, write_sheet
from unkelt.judge import Case, against, findings_of, held_by_pictures
from unkelt.lettering.shelves import standard_shelf
from unkelt.proof.proof import judge, prove
from unkelt.proof.standin import stand_ins
from unkelt.recipe import applied, dump_recipe, mend, read_recipe, run
from unkelt.release.package import FORMATS, PATTERN, Held, release
from unkelt.report import check_report, checked_file, mend_report, proof_report, release_report
from unkelt.sheet.beside import Beside, ticket_beside
from unkelt.sheet.budget import since_received
from unkelt.sheet.ticket import Ticket, read_ticket
from unkelt.survey.check import Workshop
from unkelt.survey.checks import survey
from unkelt.survey.finding import Level

CLEAN, HOLD, UNUSABLE = 0, 1, 2


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs a command and returns its exit status."""
    options = parser().parse_args(arguments)
    _quieten_libraries()
    try:
        status: int = options.command(options)
    except UnkeltError as problem:
        print(f"unkelt: {problem}", file=sys.stderr)
        return UNUSABLE
    except BrokenPipeError:
        return CLEAN
    except KeyboardInterrupt:
        print("unkelt: stopped", file=sys.stderr)
        return UNUSABLE
    return status


def _quieten_libraries() -> None:
    """Libraries warn of what they find odd in a file or a face, which says nothing to people and is no answer of ours."""
    logging.captureWarnings(True)
    logging.getLogger().addHandler(logging.NullHandler())  # else Python prints what nobody handles


def parser() -> argparse.ArgumentParser:
    """What the command takes: the man page and the completions are made of it."""
    made = argparse.ArgumentParser(
        prog="unkelt", description="Checks, repairs and proves lettering files before they go to a cutting machine."
    )
    made.add_argument("--version", action="version", version=f"unkelt {__version__}")
    commands = made.add_subparsers(required=True, metavar="COMMAND")

    desk = commands.add_parser("desk", help="the window")
    desk.add_argument("files", nargs="*", type=Path, metavar="FILE")
    desk.add_argument("--ticket", type=Path)
    desk.add_argument("--demo", action="store_true", help="open the demonstration files of Hollin Quay")
    desk.set_defaults(command=_desk)

    check = commands.add_parser("check", help="survey files, or all files in folders")
    check.add_argument("paths", nargs="+", type=Path, metavar="PATH")
    check.add_argument("--jobs", type=int, help="so many processes at once (as many as there are cores)")
    check.add_argument("--csv", type=Path, metavar="FILE", help="the summary as a table, too")
    check.add_argument("--html", type=Path, metavar="FILE", help="the summary with small pictures, too")
    _common(check, _check)

    mend_ = commands.add_parser("mend", help="take all safe steps, or those of a recipe, on a file or a folder of them")
    mend_.add_argument("file", type=Path, metavar="FILE")
    mend_.add_argument("-o", dest="output", type=Path, required=True, metavar="OUT")
    mend_.add_argument("--to", default="svg", choices=["svg", "dxf", "pdf", "plt"], help="of a folder: what is written")
    mend_.add_argument("--jobs", type=int, help="of a folder: so many processes at once")
    mend_.add_argument("--again", action="store_true", help="of a folder: what was done before is done again")
    mend_.add_argument("--recipe", type=Path, help="run these steps instead")
    mend_.add_argument("--save-recipe", type=Path, help="write the steps that were taken")
    _common(mend_, _mend)

    proof = commands.add_parser("proof", help="read a file as an importer would, and dry-run the cut")
    proof.add_argument("file", type=Path, metavar="FILE")
    _common(proof, _proof)

    proof.add_argument(
        "--importer", choices=list(stand_ins()), help="read it as this stand-in for importing software does"
    )
    release_ = commands.add_parser("release", help="proof, then the hand-off package")
    release_.add_argument("file", type=Path, metavar="FILE")
    release_.add_argument("--to", type=Path, required=True, metavar="DIR", help="the folder that takes the package")
    release_.add_argument("--by-operation", action="store_true", help="a file for each operation alone, too")
    release_.add_argument("--by-group", action="store_true", help="a file for each group alone, too")
    release_.add_argument("--by-material", action="store_true", help="a file for each material alone, on its own page")
    release_.add_argument("--straight", action="store_true", help="DXF as polylines, for machines that know no curves")
    release_.add_argument("--zip", action="store_true", help="the package as one zip beside it, too")
    release_.add_argument("--recipe", type=Path, help="run these steps first")
    release_.add_argument("--reason", default="", help="release although something holds; it goes on the sheet")
    release_.add_argument(
        "--formats", default=",".join(FORMATS), help=f"endings, parted by commas ({','.join(FORMATS)})"
    )
    release_.add_argument(
        "--name", default=PATTERN, help=f"of the package, from job, source, size, date, revision ({PATTERN})"
    )
    _common(release_, _release)

    series_ = commands.add_parser("series", help="one recipe and a list of names: a package for each")
    series_.add_argument("recipe", type=Path, metavar="RECIPE", help='"{text}" in it stands for the column text')
    series_.add_argument("list", type=Path, metavar="LIST", help="CSV with a heading, such as text,size,colour")
    series_.add_argument("--to", type=Path, required=True, metavar="DIR", help="the folder that takes the packages")
    series_.add_argument(
        "--from", dest="base", type=Path, metavar="FILE", help="what each begins with (an empty sheet)"
    )
    series_.add_argument("--formats", default="svg", help="endings, parted by commas (svg)")
    series_.add_argument("--reason", default="", help="release although something holds; it goes on the sheet")
    series_.add_argument("--jobs", type=int, help="so many processes at once")
    _common(series_, _series)

    watch_ = commands.add_parser("watch", help="survey, or mend, files as they arrive in a folder")
    watch_.add_argument("folder", type=Path, metavar="FOLDER")
    watch_.add_argument("-o", dest="output", type=Path, metavar="DIR", help="mend them into this folder")
    watch_.add_argument("--recipe", type=Path, help="mend by these steps")
    watch_.add_argument("--every", type=float, default=1.0, metavar="SECONDS", help="how often it looks (1)")
    watch_.add_argument("--once", action="store_true", help="what is there already, and no more")
    _common(watch_, _watch)

    fonts = commands.add_parser("fonts", help="the faces that can be used")
    fonts.add_argument("--json", action="store_true")
    _faces_option(fonts)
    fonts.set_defaults(command=_fonts)
    return made


def _common(parser: argparse.ArgumentParser, command: Any) -> None:
    tickets = parser.add_mutually_exclusive_group()
    tickets.add_argument("--ticket", type=Path, help="what the job asks for (TOML); else the one beside the file")
    tickets.add_argument("--no-ticket", action="store_true", help="leave the ticket that lies beside the file")
    parser.add_argument("--page", type=int, default=1, help="of a PDF, counted from 1")
    parser.add_argument("--json", action="store_true", help="one JSON object on stdout and nothing else")
    _faces_option(parser)
    parser.set_defaults(command=command)


def _faces_option(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--faces", type=Path, action="append", default=[], metavar="PATH",
                        help="a font file or a folder of them to put on the shelf, too")  # fmt: skip


def _ticket_for(options: argparse.Namespace, path: Path) -> Beside:
    """The ticket that was named, or the one that lies beside the file."""
    if options.ticket or options.no_ticket:
        return Beside(read_ticket(options.ticket) if options.ticket else Ticket(), options.ticket)
    beside = ticket_beside(path)
    if beside.words:
        print(f"unkelt: {path}: {beside.words}", file=sys.stderr)
    return beside


def _ticket_for_all(options: argparse.Namespace) -> Ticket | None:
    """The ticket that was named for all files; None where each has its own."""
    return read_ticket(options.ticket) if options.ticket else Ticket() if options.no_ticket else None


def _desk(options: argparse.Namespace) -> int:
    from unkelt.desk.app import start  # the only place outside desk/ that knows of the window

    return start(options.files, options.ticket, demo=options.demo)


def _check(options: argparse.Namespace) -> int:
    status, reports, rows = CLEAN, [], []
    orders = Orders(
        _ticket_for_all(options), tuple(options.faces), None, options.page, pictures=options.html is not None
    )
    for one in check_many(listed(options.paths), orders, options.jobs):
        row = one.row
        rows.append(row)
        reports.append(one.report)
        if row.problem:
            print(f"unkelt: {row.problem}", file=sys.stderr)
        elif not options.json:
            _print_report(one)
        status = max(status, UNUSABLE if row.problem else HOLD if row.holds else CLEAN)
    write_tables(rows, options)
    if options.json:
        _print_json(check_report(reports))
    return status


def _print_findings(path: str, findings: Sequence[dict[str, Any]], more: Sequence[str] = ()) -> None:
    """Findings, as a report has them, and what holds beside them."""
    holds = sum(finding["level"] == Level.HOLD.value for finding in findings) + len(more)
    print(f"{path}: {f'{len(findings) + len(more)} found, {holds} on hold' if findings or more else 'nothing found'}")
    for line in more:
        code, _, words = line.partition(": ")
        print(f"  hold  {code:18}  {words}")
    for finding in findings:
        print(f"  {finding['level']:4}  {finding['code']:18}  {finding['message']}")
        if finding["steps"]:
            print(f"        {'':18}  cure: {', '.join(finding['steps'])}")
        if finding["refusal"]:
            print(f"        {'':18}  refused: {finding['refusal']}")


def _print_report(one: Checked) -> None:
    """One file as people read it."""
    _print_findings(one.row.source, one.report["findings"])
    for kind, name, value in one.facts:
        print(f"  {kind}  {f'{name:18}  ' if name else ''}{value}")


def _mend(options: argparse.Namespace) -> int:
    recipe = read_recipe(options.recipe) if options.recipe else None
    if options.file.is_dir():
        return _rows_said(mend_folder(options, _ticket_for_all(options), recipe), options)
    workshop = Workshop(_ticket_for(options, options.file).ticket, standard_shelf(tuple(options.faces)))
    sheet = read_sheet(options.file, options.page)
    before = survey(sheet, workshop)
    stages = mend(sheet, workshop) if recipe is None else run(recipe, sheet, workshop)
    case = Case(options.file, sheet, workshop, tuple(stages))
    after = findings_of(case)
    write_sheet(case.sheet, options.output, workshop.ticket, never_over=options.file)
    pictures = held_by_pictures(case, options.output)
    holds = against(after, (), pictures)
    if options.save_recipe:
        write_whole(options.save_recipe, dump_recipe(applied(stages)).encode(), never_over=options.file)
    for stage in stages:
        if stage.refused:
            print(f"unkelt: {options.file}: not done: {stage.refused}", file=sys.stderr)
    if options.json:
        _print_json(mend_report(case, str(options.output), before, after, holds))
    else:
        for stage in stages:
            if stage.outcome:
                evidence = ", ".join(f"{name} {value}" for name, value in stage.outcome.evidence.items())
                print(f"{stage.call.name:16} {evidence}")
        print(f"{'since received':16} {since_received(case.sheet)}")
        _print_findings(
            str(options.output), checked_file(str(options.output), case.sheet, after, workshop)["findings"], pictures
        )
    return HOLD if holds or any(stage.refused for stage in stages) else CLEAN


def _rows_said(rows: Sequence[Row], options: argparse.Namespace) -> int:
    """The summary of many, and the exit status that it stands for."""
    if options.json:
        _print_json(as_json(rows))
    else:
        print(as_text(rows))
    return UNUSABLE if any(row.problem and not row.holds for row in rows) else HOLD if any(row.state != "clean" for row in rows) else CLEAN  # fmt: skip


def _series(options: argparse.Namespace) -> int:
    return _rows_said(make_series(options, _ticket_for(options, options.base or options.list).ticket), options)


def _watch(options: argparse.Namespace) -> int:
    watch(options, _ticket_for_all(options), read_recipe(options.recipe) if options.recipe else None)
    return CLEAN


def _proof(options: argparse.Namespace) -> int:
    ticket = _ticket_for(options, options.file).ticket
    if options.importer:
        proof = judge(str(options.file), stand_ins()[options.importer].read(options.file), ticket)
    else:
        proof = prove(options.file, ticket)
    if options.json:
        _print_json(proof_report(proof))
    else:
        print(f"{proof.path}: {proof.verdict}")
        counts = (
            (proof.bodies, "body", "bodies"), (proof.pieces, "piece", "pieces"), (proof.counters, "counter", "counters"),
            (proof.subpaths, "subpath", "subpaths"), (proof.nodes, "node", "nodes"),
        )  # fmt: skip
        words = ", ".join(f"{count} {one if count == 1 else several}" for count, one, several in counts)
        print(f"  {proof.size_mm[0]:.2f} × {proof.size_mm[1]:.2f} mm, {words}")
        print(f"  {proof.cut_length_mm / 1000:.2f} m to cut, {proof.cut_twice_mm:.1f} mm of it twice, "
              f"about {proof.seconds:.0f} s")  # fmt: skip
        for reason in proof.reasons:
            print(f"  hold  {reason}")
    return HOLD if proof.reasons else CLEAN


def _release(options: argparse.Namespace) -> int:
    beside = _ticket_for(options, options.file)
    workshop = Workshop(beside.ticket, standard_shelf(tuple(options.faces)))
    recipe = read_recipe(options.recipe) if options.recipe else None
    sheet = read_sheet(options.file, options.page)
    stages = run(recipe, sheet, workshop) if recipe else []
    skipped = [stage.refused for stage in stages if stage.refused]
    for sentence in skipped:
        print(f"unkelt: {options.file}: not done: {sentence}", file=sys.stderr)
    endings = [f".{ending.strip().lstrip('.')}" for ending in options.formats.split(",") if ending.strip()]
    try:
        package = release(
            Case(options.file, sheet, workshop, tuple(stages)), options.to, reason=options.reason, formats=endings,
            pattern=options.name, ticket_text=beside.ticket.source.encode(), by_operation=options.by_operation,
            by_group=options.by_group, by_material=options.by_material, straight=options.straight, zipped=options.zip,
        )  # fmt: skip
    except Held as held:
        for hold in held.holds:
            print(f"unkelt: {options.file}: on hold: {hold}", file=sys.stderr)
        print(f"unkelt: {options.file}: not released; mend it, or give a --reason", file=sys.stderr)
        if options.json:
            _print_json(release_report(str(options.file), None, held.holds))
        return HOLD
    for sentence in package.left_out:
        print(f"unkelt: {options.file}: not written: {sentence}", file=sys.stderr)
    if options.json:
        _print_json(release_report(str(options.file), package, package.record.holds))
    else:
        print(package.folder)
        for name, total in package.record.sums.items():
            print(f"  {total[:12]}  {name}")
        print(f"  to sign: {', '.join(package.names[:2])}")
    return HOLD if package.record.holds or package.left_out or skipped else CLEAN


def _fonts(options: argparse.Namespace) -> int:
    shelf = standard_shelf(tuple(options.faces))
    faces = shelf.faces
    for sentence in shelf.damaged:
        print(f"unkelt: {sentence}", file=sys.stderr)
    if options.json:
        _print_json(
            {
                "schema": "unkelt.fonts/1",
                "faces": [
                    {
                        "family": face.family,
                        "style": face.style,
                        "weight": face.weight,
                        "italic": face.italic,
                        "postscript": face.postscript,
                        "bundled": face.bundled,
                        "axes": dict(face.axes),
                        "path": str(face.path),
                    }
                    for face in faces
                ],
            }
        )
    else:
        for face in faces:
            print(
                f"{face.name:32} {face.weight}{' italic' if face.italic else ''}{'  (bundled)' if face.bundled else ''}"
            )
    return CLEAN


def _print_json(report: dict[str, Any]) -> None:
    print(json.dumps(report, ensure_ascii=False, indent=1))


if __name__ == "__main__":
    sys.exit(main())
