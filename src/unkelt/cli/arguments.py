"""What each command takes: help, the man page and the completions are made of it.

The words alone: a command is imported when it is called.
"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from unkelt import __version__
from unkelt.job.habit_names import HABITS
from unkelt.release.file_names import FORMATS, PATTERN


def parser() -> argparse.ArgumentParser:
    """All of it."""
    made = argparse.ArgumentParser(
        prog="unkelt", description="Checks, repairs and proves lettering files before they go to a cutting machine."
    )
    made.add_argument("--version", action="version", version=f"unkelt {__version__}")
    commands = made.add_subparsers(required=True, metavar="COMMAND", dest="command")
    for add in (_desk, _check, _mend, _proof, _release, _series, _watch, _fonts, _new, _demo, _integrate):
        add(commands)
    return made


if TYPE_CHECKING:
    Commands = argparse._SubParsersAction[argparse.ArgumentParser]


def _desk(commands: Commands) -> None:
    desk = commands.add_parser("desk", help="the window")
    desk.add_argument("files", nargs="*", type=Path, metavar="FILE", help="files or working files to open")
    desk.add_argument("--ticket", type=Path, help="what the jobs ask for (TOML); else the one beside each file")
    desk.add_argument("--demo", action="store_true", help="open the demonstration files of Hollin Quay")


def _check(commands: Commands) -> None:
    check = commands.add_parser("check", help="survey files, or all files in folders")
    check.add_argument(
        "paths", nargs="+", type=Path, metavar="PATH", help="files, and folders with all that lies below"
    )
    check.add_argument("--jobs", type=int, help="so many processes at once (as many as there are cores)")
    check.add_argument("--csv", type=Path, metavar="FILE", help="the summary as a table, too")
    check.add_argument("--html", type=Path, metavar="FILE", help="the summary with small pictures, too")
    _on_files(check)


def _mend(commands: Commands) -> None:
    mend = commands.add_parser("mend", help="take all safe steps, or those of a recipe, on a file or a folder of them")
    mend.add_argument("file", type=Path, metavar="FILE", help="a file, or a folder of them; never written over")
    mend.add_argument(
        "-o", dest="output", type=Path, required=True, metavar="OUT", help="the result; its ending says the format"
    )
    mend.add_argument("--to", default="svg", choices=["svg", "dxf", "pdf", "plt"], help="of a folder: what is written")
    mend.add_argument("--jobs", type=int, help="of a folder: so many processes at once")
    mend.add_argument("--again", action="store_true", help="of a folder: what was done before is done again")
    mend.add_argument("--recipe", type=Path, help="run these steps instead")
    mend.add_argument("--save-recipe", type=Path, help="write the steps that were taken")
    _on_files(mend)


def _proof(commands: Commands) -> None:
    proof = commands.add_parser("proof", help="read a file as an importer would, and dry-run the cut")
    proof.add_argument("file", type=Path, metavar="FILE", help="the file to read back")
    _on_files(proof)
    reader = proof.add_mutually_exclusive_group()
    reader.add_argument("--importer", choices=HABITS, help="read it as this stand-in for importing software does")
    reader.add_argument("--destination", metavar="NAME", help="read it as this one of the ticket's destinations does")


def _release(commands: Commands) -> None:
    release = commands.add_parser("release", help="proof, then the hand-off package, of a file or a folder of them")
    release.add_argument("file", type=Path, metavar="FILE", help="a file, or a folder of them")
    release.add_argument("--to", type=Path, required=True, metavar="DIR", help="the folder that takes the package")
    release.add_argument("--by-operation", action="store_true", help="one file for each operation")
    release.add_argument("--by-group", action="store_true", help="one file for each group")
    release.add_argument("--by-material", action="store_true", help="a file for each material alone, on its own page")
    release.add_argument("--straight", action="store_true", help="DXF as polylines, for machines that know no curves")
    release.add_argument("--zip", action="store_true", help="the package as one zip beside it, too")
    release.add_argument("--recipe", type=Path, help="run these steps first")
    release.add_argument("--reason", default="", help="release although something holds; it goes on the sheet")
    known = ",".join(FORMATS)
    release.add_argument(
        "--formats", help=f"endings, parted by commas ({known}, where the ticket names no destination)"
    )
    release.add_argument(
        "--name", default=PATTERN, help=f"of the package, from job, source, size, date, revision ({PATTERN})"
    )
    _handed(release)
    _on_files(release)


def _handed(parser: argparse.ArgumentParser) -> None:
    """Where packages go, and how many are made at once."""
    parser.add_argument(
        "--destination", action="append", metavar="NAME", help="only this one of the ticket's (all); may be repeated"
    )
    parser.add_argument(
        "--languages", default="en", help="of the inspection sheet, parted by commas, such as en,de (en)"
    )
    parser.add_argument("--together", action="store_true", help="of many: one package of all, with a contact sheet")
    parser.add_argument("--again", action="store_true", help="of many: what was released before is released again")
    parser.add_argument("--jobs", type=int, help="of many: so many processes at once")


def _series(commands: Commands) -> None:
    series = commands.add_parser("series", help="one recipe and a list of names: a package for each")
    series.add_argument("recipe", type=Path, metavar="RECIPE", help='"{text}" in it stands for the column text')
    series.add_argument("list", type=Path, metavar="LIST", help="CSV with a heading, such as text,size,colour")
    series.add_argument("--to", type=Path, required=True, metavar="DIR", help="the folder that takes the packages")
    series.add_argument("--from", dest="base", type=Path, metavar="FILE", help="what each begins with (an empty sheet)")
    series.add_argument("--formats", help="endings, parted by commas (svg, or the ticket's destinations alone)")
    series.add_argument("--reason", default="", help="release although something holds; it goes on the sheet")
    _handed(series)
    _on_files(series)


def _watch(commands: Commands) -> None:
    watch = commands.add_parser("watch", help="survey, or mend, files as they arrive in a folder")
    watch.add_argument("folder", type=Path, metavar="FOLDER", help="where files arrive")
    watch.add_argument("-o", dest="output", type=Path, metavar="DIR", help="mend them into this folder")
    watch.add_argument("--recipe", type=Path, help="mend by these steps")
    watch.add_argument("--every", type=float, default=1.0, metavar="SECONDS", help="how often it looks (1)")
    watch.add_argument("--once", action="store_true", help="what is there already, and no more")
    _on_files(watch)


def _fonts(commands: Commands) -> None:
    fonts = commands.add_parser("fonts", help="the faces that can be used")
    fonts.add_argument("--name", default="", metavar="WORDS", help="only faces whose names hold these words")
    kinds = ["script", "serif", "slab", "sans", "display"]
    fonts.add_argument("--kind", default="", choices=kinds, metavar="KIND", help=f"only one kind: {', '.join(kinds)}")
    fonts.add_argument("--weight", default="", choices=["light", "regular", "bold"], help="only faces of such a weight")
    fonts.add_argument("--letters", default="", choices=["narrow", "normal", "wide"], help="only faces so wide")
    fonts.add_argument("--business", action="store_true", help="only faces with an open licence, for business too")
    fonts.add_argument("--json", action="store_true", help="one JSON object on stdout and nothing else")
    _faces(fonts)


def _new(commands: Commands) -> None:
    new = commands.add_parser("new", help="a new sheet from words: set, mended, written")
    new.add_argument("words", metavar="WORDS", help='" | " separates two lines')
    new.add_argument("--face", required=True, metavar="FAMILY", help="as `unkelt fonts` lists it")
    new.add_argument("--weight", type=int, default=400, help="400 is regular, 700 bold (400)")
    new.add_argument("--italic", action="store_true", help="the italic of the family")
    size = new.add_mutually_exclusive_group()
    size.add_argument("--width", default="", metavar="LENGTH", help='of the ink, such as "900 mm" or "3 1/2 in"')
    size.add_argument("--height", default="", metavar="LENGTH", help="of what --of names")
    new.add_argument(
        "--of",
        default="capitals",
        choices=["capitals", "x-height", "ink", "em"],
        help="what --height measures (capitals)",
    )
    new.add_argument("--page", default="", metavar="WxH", help='such as "300 mm x 200 mm"; else fitted to the art')
    new.add_argument("--ticket", type=Path, help="what the job asks for (TOML)")
    new.add_argument(
        "-o", dest="output", type=Path, required=True, metavar="OUT", help="the result; its ending says the format"
    )
    new.add_argument("--json", action="store_true", help="one JSON object on stdout and nothing else")
    _faces(new)


def _demo(commands: Commands) -> None:
    demo = commands.add_parser("demo", help="the jobs of Hollin Quay, to try everything on")
    demo.add_argument("folder", type=Path, metavar="DIR", help="where they go; what is there is never written over")


def _integrate(commands: Commands) -> None:
    integrate = commands.add_parser("integrate", help="menu entry, manual page and completions, for this person")
    integrate.add_argument("--remove", action="store_true", help="take them away again")


def _on_files(parser: argparse.ArgumentParser) -> None:
    tickets = parser.add_mutually_exclusive_group()
    tickets.add_argument("--ticket", type=Path, help="what the job asks for (TOML); else the one beside the file")
    tickets.add_argument("--no-ticket", action="store_true", help="leave the ticket that lies beside the file")
    parser.add_argument("--page", type=int, default=1, help="of a PDF, counted from 1")
    parser.add_argument("--json", action="store_true", help="one JSON object on stdout and nothing else")
    _faces(parser)


def _faces(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--faces",
        type=Path,
        action="append",
        default=[],
        metavar="PATH",
        help="a font file or a folder of them to put on the shelf, too",
    )
