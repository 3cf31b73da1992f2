"""Nothing lost: what is open is kept after every step, and given back after a crash, a power cut or a kill.

A folder of the user's state holds three files for each open job: the file as it was received, the job as a working
file, and a lock that this process holds as long as it lives. What is kept and no longer locked was left by a process
that ended without closing it.
"""

from __future__ import annotations

import datetime
import fcntl
import hashlib
import os
import threading
import tomllib
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import tomlkit

from unkelt.errors import InputError, UnkeltError
from unkelt.formats.files import read_bytes, write_whole
from unkelt.lettering.faces import Shelf
from unkelt.messages import say
from unkelt.session.job import Job
from unkelt.session.working_file import ENDING, open_working, save_working

RECENT = "recent"
"""The name of the file that lists recent jobs."""

MOST_RECENT = 12
"""So many jobs are remembered as recent."""


@dataclass(frozen=True, slots=True)
class Kept:
    """A job that was left open: its file, how many steps had been taken, and when the last was kept."""

    path: Path
    steps: int
    when: datetime.datetime
    name: str
    """By which the keeper knows it."""


class Keeper:
    """One window's keeping. All of it lies in one private folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._locks: dict[Path, int] = {}
        self._busy = threading.Lock()
        """Held for a moment only, never while a file is written: whoever closes a job doesn't wait for that."""
        self._writing: Counter[Path] = Counter()
        self._writer = threading.Lock()
        """Held while a job is written: one after another, so that its files are of one state."""
        self._asked: Counter[Path] = Counter()
        """How often each job was to be kept: who finds that it was asked again meanwhile leaves it to the next."""
        self._dropped: dict[Path, int] = {}
        """Locks of jobs that were closed while they were written: whoever wrote last removes them."""

    # one job

    def take(self, path: Path, received: bytes | None = None) -> bool:
        """Begins to keep the job of a file; False where another window has it open. Raises InputError."""
        with self._busy:
            if path in self._locks:
                return True
            lock = self._dropped.pop(path, None)
            if lock is None:
                lock = self._locked(_name(path))
            if lock is None:
                return False
            self._locks[path] = lock
        write_whole(self._file(_name(path), ".received"), received if received is not None else read_bytes(path))
        return True

    def keep(self, job: Job) -> None:
        """The job as it stands. One that is closed, or that another window has, is left alone. Raises InputError."""
        with self._busy:
            if job.path not in self._locks:
                return
            self._writing[job.path] += 1
            self._asked[job.path] += 1
            mine = self._asked[job.path]
        try:
            with self._writer:
                if self._asked[job.path] == mine:
                    self._write(job)
        finally:
            with self._busy:
                self._writing[job.path] -= 1
                dropped = self._dropped.pop(job.path, None) if not self._writing[job.path] else None
                if dropped is not None:  # it was closed meanwhile
                    self._forget(job.path, dropped)

    def _write(self, job: Job) -> None:
        name = _name(job.path)
        kept = replace(job, received=read_bytes(self._file(name, ".received")))
        save_working(kept, self._file(name, ENDING))
        facts = {
            "path": str(job.path),
            "steps": len(job.stages),
            "when": datetime.datetime.now().replace(microsecond=0),
        }
        write_whole(self._file(name, ".toml"), tomlkit.dumps(facts).encode())

    def drop(self, path: Path) -> None:
        """The job is closed as a person wants it: there is nothing to give back."""
        with self._busy:
            lock = self._locks.pop(path, None)
            if lock is None:
                return
            if self._writing[path]:
                self._dropped[path] = lock
            else:
                self._forget(path, lock)

    def _forget(self, path: Path, lock: int) -> None:
        self._remove(_name(path))
        os.close(lock)

    def close(self) -> None:
        """All jobs are closed."""
        for path in list(self._locks):
            self.drop(path)

    # what others left

    def left(self) -> list[Kept]:
        """Jobs that were left open by what has ended since, the latest first; what is damaged is passed over."""
        found = []
        for name in sorted(path.stem for path in self.folder.glob("*.lock")) if self.folder.is_dir() else []:
            lock = self._locked(name)
            if lock is None:
                continue  # a window that lives has it
            try:
                said = tomllib.loads(self._file(name, ".toml").read_text(encoding="utf-8"))
                kept = Kept(Path(said["path"]), int(said["steps"]), said["when"], name)
                if kept.steps:
                    found.append(kept)
                else:
                    self._remove(name)
            except FileNotFoundError:  # nothing had been done to it
                self._remove(name)
            except (OSError, ValueError, KeyError, TypeError):
                continue
            finally:
                os.close(lock)
        return sorted(found, key=lambda kept: kept.when, reverse=True)

    def give_back(self, kept: Kept, shelf: Shelf) -> tuple[Job, str]:
        """The job as it was kept, which is this window's from now on, and a sentence where something is to be known.

        Raises InputError where it can't be read, or where another window has taken it meanwhile.
        """
        lock = self._locked(kept.name)
        if lock is None:
            raise InputError(str(kept.path), "is open in another window by now")
        try:
            job, words = open_working(self._file(kept.name, ENDING), shelf)
        except UnkeltError:
            os.close(lock)
            raise
        with self._busy:
            self._locks[kept.path] = lock
        return replace(job, path=kept.path, saved_path=None, saved_stages=None, released_as=None), words

    def throw_away(self, kept: Kept) -> None:
        """What was left is not wanted."""
        lock = self._locked(kept.name)
        if lock is not None:
            self._remove(kept.name)
            os.close(lock)

    # recent jobs

    def recent(self) -> list[Path]:
        """Files opened last, the latest first, as far as they are still there."""
        return self._listed("paths")

    def together(self) -> list[Path]:
        """Files that were on the desk when the window was last closed, as far as they are still there."""
        return self._listed("together")

    def _listed(self, name: str) -> list[Path]:
        try:
            said = tomllib.loads((self.folder / f"{RECENT}.toml").read_text(encoding="utf-8"))
            paths = [Path(str(path)) for path in said.get(name, [])]
        except (OSError, ValueError, TypeError):
            return []
        return [path for path in paths if path.is_file()]

    def remember(self, paths: Sequence[Path], *, together: bool = False) -> None:
        """These files were opened just now; or were on the desk `together` as it was closed. Raises InputError."""
        self._make()
        there = list(dict.fromkeys(path.absolute() for path in paths))
        lists = {"paths": list(dict.fromkeys([*there, *self.recent()]))[:MOST_RECENT]}
        lists["together"] = there if together else self.together()
        text = tomlkit.dumps({name: [str(path) for path in listed] for name, listed in lists.items()})
        write_whole(self.folder / f"{RECENT}.toml", text.encode())

    # files

    def _make(self) -> None:
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        except OSError as problem:
            raise InputError(str(self.folder), say("can't be made: {strerror}", strerror=problem.strerror)) from problem

    def _file(self, name: str, ending: str) -> Path:
        return self.folder / f"{name}{ending}"

    def _locked(self, name: str) -> int | None:
        """A lock that ends with this process, however it ends; None where another holds it."""
        self._make()
        try:
            lock = os.open(self._file(name, ".lock"), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError as problem:
            raise InputError(
                str(self.folder), say("can't be written: {strerror}", strerror=problem.strerror)
            ) from problem
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(lock)
            return None
        return lock

    def _remove(self, name: str) -> None:
        for ending in (".toml", ENDING, ".received", ".lock"):  # the facts first: without them nothing is given back
            self._file(name, ending).unlink(missing_ok=True)
        for part in self.folder.glob(f".{name}.*.part"):  # what a kill left half written
            part.unlink(missing_ok=True)


def _name(path: Path) -> str:
    """A name for a file's place: one for every way to write the path."""
    return hashlib.sha256(os.fsencode(path.resolve())).hexdigest()[:20]
