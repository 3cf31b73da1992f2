"""`unkelt integrate`: menu entry, icon, MIME type, manual page and completions, put where the desktop finds them.

Places as in the XDG Base Directory Specification and the Desktop Menu Specification; from memory.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

from platformdirs import user_data_path

from unkelt.cli.status import Status
from unkelt.errors import InputError
from unkelt.formats.files import write_whole

ASSETS = files("unkelt") / "assets"
ENTRY = "app.unkelt.Unkelt.desktop"
PLACES = {
    f"applications/{ENTRY}": f"desktop/{ENTRY}",
    "icons/hicolor/scalable/apps/app.unkelt.Unkelt.svg": "app.unkelt.Unkelt.svg",
    "metainfo/app.unkelt.Unkelt.metainfo.xml": "desktop/app.unkelt.Unkelt.metainfo.xml",
    "mime/packages/app.unkelt.Unkelt-mime.xml": "desktop/app.unkelt.Unkelt-mime.xml",
    "man/man1/unkelt.1": "desktop/unkelt.1",
    "bash-completion/completions/unkelt": "desktop/unkelt",
    "zsh/site-functions/_unkelt": "desktop/_unkelt",
}
"""Where each file goes below the person's data folder, and which of the package's it is."""

CACHES = (("update-desktop-database", "applications"), ("update-mime-database", "mime"))
"""What makes the desktop look again, where it is there, and at which folder."""


@dataclass(frozen=True, kw_only=True)
class Asked:
    """`unkelt integrate`: what was asked for."""

    remove: bool = False


def run(asked: Asked) -> int:
    """Puts the files there, or takes them away; the exit status."""
    home = user_data_path()
    done = [
        _take_away(home / place) if asked.remove else _put(home / place, source) for place, source in PLACES.items()
    ]
    for command, folder in CACHES:
        if shutil.which(command) and (home / folder).is_dir():
            subprocess.run([command, str(home / folder)], check=False, capture_output=True)
    if asked.remove:
        for place in PLACES:
            _without_empty_folders(home / place, home)
        print(f"Took {sum(done)} files away from {home}.")
        return Status.CLEAN
    print(f"Unkelt is in the menu, with its manual page and completions ({sum(done)} files below {home}).")
    print("“unkelt integrate --remove” takes them away again.")
    return Status.CLEAN


def _put(path: Path, source: str) -> bool:
    """Writes one file; the menu entry calls the program by its full path, which a menu may not find otherwise."""
    data = (ASSETS / source).read_bytes()
    if path.name == ENTRY:
        data = data.replace(b"\nExec=unkelt ", f"\nExec={_quoted(_program())} ".encode())
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(str(path.parent), f"can't be made: {problem.strerror}") from problem
    write_whole(path, data)
    return True


def _program() -> str:
    """The command as it was called, or as it lies beside this Python."""
    beside = Path(sys.executable).with_name("unkelt")
    return str(beside) if beside.is_file() else shutil.which("unkelt") or "unkelt"


def _quoted(path: str) -> str:
    """As the Desktop Entry Specification wants arguments with blanks."""
    reserved = set(" \t\n\"'\\><~|&;$*?#()`")
    if not reserved & set(path):
        return path
    return '"' + "".join(f"\\\\{sign}" if sign in '"`$\\' else sign for sign in path) + '"'


def _take_away(path: Path) -> bool:
    there = path.is_file()
    path.unlink(missing_ok=True)
    return there


def _without_empty_folders(path: Path, home: Path) -> None:
    """Folders that held one of the files and hold nothing now go, too."""
    for folder in path.parents:
        if folder == home or not folder.is_dir() or any(folder.iterdir()):
            return
        folder.rmdir()
