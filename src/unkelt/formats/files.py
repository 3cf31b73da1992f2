"""Bytes in and out: one clear sentence for what can't be read, and writes that are whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from unkelt.errors import InputError
from unkelt.messages import say


def read_bytes(path: Path) -> bytes:
    """The whole file. Raises InputError where there is nothing to read."""
    try:
        if path.is_dir():
            raise InputError(str(path), "is a folder, not a file")
        if path.exists() and not path.is_file():
            raise InputError(str(path), "is a pipe or a device, not a file")
        data = path.read_bytes()
    except FileNotFoundError as problem:
        raise InputError(str(path), "there is no such file") from problem
    except (OSError, ValueError) as problem:
        raise InputError(
            str(path), say("can't be read: {value}", value=getattr(problem, "strerror", None) or problem)
        ) from problem
    if not data.strip():
        raise InputError(str(path), "is empty")
    return data


def write_whole(path: Path, data: bytes, *, never_over: Path | None = None) -> None:
    """Writes to a temporary file beside `path`, flushes it to the disk and renames it.

    Raises InputError when the place can't be written, or when it is the file named by `never_over` (the original).
    """
    try:
        if never_over is not None and path.exists() and path.samefile(never_over):
            raise InputError(str(path), "is the original, which is never written over; choose another name")
        if path.is_dir():
            raise InputError(str(path), "is a folder; name a file to write")
        handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.", suffix=".part")
    except OSError as problem:
        raise InputError(str(path), say("can't be written: {strerror}", strerror=problem.strerror)) from problem
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        umask = os.umask(0)
        os.umask(umask)
        os.chmod(temporary, 0o666 & ~umask)
        os.replace(temporary, path)
    except OSError as problem:
        Path(temporary).unlink(missing_ok=True)
        raise InputError(str(path), say("can't be written: {strerror}", strerror=problem.strerror)) from problem


def put(path: Path, data: bytes) -> None:
    """Writes a file of a folder that nobody sees yet, and flushes it to the disk. Raises OSError."""
    path.parent.mkdir(exist_ok=True)
    with path.open("wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())
