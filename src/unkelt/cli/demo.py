"""`unkelt demo`: the jobs of Hollin Quay, to try everything on."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from unkelt.cli.status import Status
from unkelt.demo import make_demo


@dataclass(frozen=True, kw_only=True)
class Asked:
    """`unkelt demo`: what was asked for."""

    folder: Path


def run(asked: Asked) -> int:
    """Writes the files that aren't there yet; the exit status."""
    before = set(asked.folder.iterdir()) if asked.folder.is_dir() else set()
    made = make_demo(asked.folder)
    kept = len(before & set(asked.folder.iterdir()))
    left = f"; {kept} files that were there are as they were" if kept else ""
    print(f"{asked.folder}: {len(made)} jobs of Hollin Quay{left}")
    print(f'Begin with: unkelt check "{made[0]}"')
    return Status.CLEAN
