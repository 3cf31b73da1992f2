"""Builds what people install: a wheel, a source archive, and a Debian package that brings its own Python packages.

    ./dev package [FOLDER]

Two builds of the same commit are the same bytes: all times are that of the commit (SOURCE_DATE_EPOCH, as
reproducible-builds.org has it).
"""

from __future__ import annotations

import gzip
import io
import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
from importlib.metadata import distributions
from pathlib import Path

TOP = Path(__file__).parents[1]
SITE = Path("usr/lib/unkelt")
"""The folder of the package's own Python packages."""

LAUNCHER = """#!/usr/bin/python3 -I
import sys

sys.path.insert(0, "/usr/lib/unkelt")
from unkelt.cli import main

sys.exit(main())
"""

CONTROL = """Package: unkelt
Version: {version}
Architecture: {architecture}
Maintainer: The Unkelt team <unkelt@unkelt.app>
Installed-Size: {size}
Depends: python3 (>= 3.11), python3 (<< 3.12), {libraries}
Recommends: xdg-utils, shared-mime-info, desktop-file-utils
Section: graphics
Priority: optional
Description: checks, repairs and proves lettering files before they are cut
 Unkelt is for the technician who takes a lettering file somebody else made and
 hands it to a cutting machine. It finds text that isn't outlines, overlaps,
 open and repeated paths, needless nodes and wrong sizes, repairs them with
 proof, and hands over files that import cleanly.
"""

PLACES = {
    "app.unkelt.Unkelt.svg": "usr/share/icons/hicolor/scalable/apps/app.unkelt.Unkelt.svg",
    "desktop/app.unkelt.Unkelt.desktop": "usr/share/applications/app.unkelt.Unkelt.desktop",
    "desktop/app.unkelt.Unkelt.metainfo.xml": "usr/share/metainfo/app.unkelt.Unkelt.metainfo.xml",
    "desktop/app.unkelt.Unkelt-mime.xml": "usr/share/mime/packages/app.unkelt.Unkelt-mime.xml",
    "desktop/unkelt.1": "usr/share/man/man1/unkelt.1",
    "desktop/unkelt": "usr/share/bash-completion/completions/unkelt",
    "desktop/_unkelt": "usr/share/zsh/vendor-completions/_unkelt",
}
"""Where the desktop looks for what the package shares, by the names of the assets."""


def main(out: Path) -> None:
    """All of it, into a folder."""
    out.mkdir(parents=True, exist_ok=True)
    when = _run(["git", "log", "-1", "--format=%ct"], cwd=TOP).strip()
    os.environ |= {"SOURCE_DATE_EPOCH": when, "PYTHONHASHSEED": "0", "TZ": "UTC", "LC_ALL": "C.UTF-8"}
    with tempfile.TemporaryDirectory() as folder:
        clean = Path(folder) / "unkelt"
        # A fresh copy of what is committed: nothing that lies about gets in.
        _run(["git", "clone", "--quiet", str(TOP), str(clean)])
        _run([sys.executable, "-m", "build", "--quiet", "--outdir", str(out), str(clean)])
        wheel = next(out.glob("unkelt-*.whl"))
        _same_each_time(next(out.glob("unkelt-*.tar.gz")))
        _debian(wheel, clean, Path(folder) / "root", out)
    for path in sorted(out.glob("unkelt*")):
        print(path)


def _same_each_time(archive: Path) -> None:
    """A source archive packed anew, in order and all of one time: setuptools takes the times of the copy."""
    when = int(os.environ["SOURCE_DATE_EPOCH"])
    plain = io.BytesIO()
    with tarfile.open(archive) as old, tarfile.open(fileobj=plain, mode="w", format=tarfile.PAX_FORMAT) as new:
        for member in sorted(old.getmembers(), key=lambda each: each.name):
            member.mtime, member.uid, member.gid, member.uname, member.gname = when, 0, 0, "", ""
            member.pax_headers = {}
            new.addfile(member, old.extractfile(member) if member.isfile() else None)
    archive.write_bytes(gzip.compress(plain.getvalue(), mtime=when))


def _debian(wheel: Path, clean: Path, root: Path, out: Path) -> None:
    """The wheel with all that it needs, and what the desktop looks for, as a Debian package."""
    site = root / SITE
    pip = [sys.executable, "-m", "pip", "install", "--quiet", "--disable-pip-version-check", "--no-compile"]
    _run([*pip, "--target", str(site), "-c", str(clean / "constraints.txt"), str(wheel)])
    for folder in (site / "bin", site / "share", site / "test"):  # somebody's own tests, under a name of Python's
        shutil.rmtree(folder, ignore_errors=True)
    for path in (*site.rglob("direct_url.json"), *site.rglob("__pycache__"), *site.rglob("RECORD")):
        shutil.rmtree(path) if path.is_dir() else path.unlink()  # they name places of the building machine
    for source, place in PLACES.items():
        (root / place).parent.mkdir(parents=True, exist_ok=True)
        shutil.copy(site / "unkelt" / "assets" / source, root / place)
    _run(["gzip", "-9n", str(root / "usr/share/man/man1/unkelt.1")])
    launcher = root / "usr/bin/unkelt"
    launcher.parent.mkdir(parents=True)
    launcher.write_text(LAUNCHER)
    launcher.chmod(0o755)
    _licences(site, clean, root / "usr/share/doc/unkelt")
    _control(root, wheel.name.split("-")[1])
    _as_of_the_commit(root)
    architecture = _run(["dpkg", "--print-architecture"]).strip()
    name = f"unkelt_{wheel.name.split('-')[1]}_{architecture}.deb"
    _run(["dpkg-deb", "--root-owner-group", "-Zzstd", "--build", str(root), str(out / name)])


def _licences(site: Path, clean: Path, folder: Path) -> None:
    """The licence of every part, by its name: our own, the faces' and each package's."""
    folder.mkdir(parents=True)
    shutil.copy(clean / "LICENSE", folder / "copyright")
    kept = ("LICEN", "COPYING", "NOTICE", "OFL")
    for path in sorted(site.rglob("*")):
        within = path.parent.name.upper().startswith("LICEN")
        if path.is_file() and (within or path.name.upper().startswith(kept)) and path.suffix != ".py":
            owner = path.relative_to(site).parts[0].split("-")[0].removesuffix(".dist")
            target = folder / "licences" / owner / path.name
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy(path, target)
    lines = []
    for found in sorted(distributions(path=[str(site)]), key=lambda each: each.name.lower()):
        said = found.metadata.json
        licence = str(said.get("license_expression") or said.get("license") or "see its own files")
        lines.append(f"{found.name} {found.version}: {licence.splitlines()[0]}\n")
    lines.append("\nThe texts of the GNU licences are in /usr/share/common-licenses.\n")
    (folder / "licences" / "PARTS").write_text("".join(lines))


def _control(root: Path, version: str) -> None:
    libraries = _run(["bash", str(TOP / "dev"), "libraries"]).split()
    size = sum(path.stat().st_size for path in root.rglob("*") if path.is_file()) // 1024
    control = CONTROL.format(
        version=version,
        architecture=_run(["dpkg", "--print-architecture"]).strip(),
        size=size,
        libraries=", ".join(libraries),
    )
    (root / "DEBIAN").mkdir()
    (root / "DEBIAN" / "control").write_text(control)
    after = "#!/bin/sh\nset -e\npy3compile -p unkelt /usr/lib/unkelt 2>/dev/null || true\n"
    before = "#!/bin/sh\nset -e\nfind /usr/lib/unkelt -name __pycache__ -prune -exec rm -rf {} + 2>/dev/null || true\n"
    for name, text in (("postinst", after), ("prerm", before)):
        script = root / "DEBIAN" / name
        script.write_text(text)
        script.chmod(0o755)


def _as_of_the_commit(root: Path) -> None:
    """One time and plain permissions for everything."""
    when = int(os.environ["SOURCE_DATE_EPOCH"])
    for path in sorted(root.rglob("*"), reverse=True):
        executable = path.is_dir() or bool(path.stat().st_mode & 0o100)
        path.chmod(0o755 if executable else 0o644)
        os.utime(path, (when, when))


def _run(command: list[str], cwd: Path | None = None) -> str:
    done = subprocess.run(command, cwd=cwd, capture_output=True, text=True, check=False)
    if done.returncode:
        print(done.stdout, done.stderr, sep="\n", file=sys.stderr)
        raise SystemExit(f"{' '.join(command[:3])} failed")
    return done.stdout


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "dist").resolve())
