"""Takes the paths out of Skia's own tests of its boolean operations: `python extract.py SDIST_FOLDER > paths.json`.

SDIST_FOLDER is where the sdist of skia-pathops was unpacked; its tests (`PathOps*Test.cpp`) are under Skia's BSD
licence, which lies beside the result. Run once; the result is kept. Paths with conics, and those built in loops, are
left out.
"""

from __future__ import annotations

import json
import re
import struct
import sys
from pathlib import Path

FUNCTION = re.compile(r"^static void (\w+)\([^)]*\)\s*\{(.*?)^\}", re.MULTILINE | re.DOTALL)
CALL = re.compile(
    r"(SkPathBuilder\b(?:\s+\w+)?(?:\(([^()]*)\))?)|(\bSkPath\s+\w+;)"
    r"|(\w*)\.(moveTo|lineTo|quadTo|cubicTo|conicTo|close|addRect|addCircle|addOval|addRRect|arcTo|addPath)\(((?:[^()]|\([^()]*\))*)\)"
    r"|(kEvenOdd|kWinding|kInverse\w*)"
)
OPERATION = re.compile(r"testPathOp\w*\(reporter,\s*([\w]+)[.()\w]*,\s*([\w]+)[.()\w]*,\s*k(\w+?)_SkPathOp")
LETTERS = {"moveTo": ("M", 2), "lineTo": ("L", 2), "quadTo": ("Q", 4), "cubicTo": ("C", 6)}


def numbers(text: str) -> list[float] | None:
    found = []
    for word in re.split(r",(?![^(]*\))", text):
        word = word.strip()
        if bits := re.fullmatch(r"SkBits2Float\((0x[0-9a-fA-F]+)\)", word):
            found.append(struct.unpack(">f", int(bits[1], 16).to_bytes(4, "big"))[0])
            continue
        try:
            found.append(float(word.removesuffix("f").removesuffix("F")))
        except ValueError:
            return None
    return found


def paths(body: str) -> dict[str, tuple[str, bool]] | None:
    """Path data and whether even-odd, of all paths a function builds, by name; None where one can't be taken."""
    body = re.sub(r"//[^\n]*", "", body)
    data: dict[str, list[str]] = {}
    rules: dict[str, bool] = {}
    now = ""
    for match in CALL.finditer(body):
        if match[1] or match[3]:  # a builder or path is declared, with or without a name
            before = re.search(r"(\w+)\s*=\s*$", body[: match.start()])
            named = re.match(r"SkPath(?:Builder)?\s+(\w+)", match[0])
            now = named[1] if named else before[1] if before else f"path{len(data)}"
            data[now], rules[now] = [], "kEvenOdd" in (match[2] or "")
            continue
        if match[7]:
            if match[7].startswith("kInverse"):
                return None
            owner = re.search(r"(\w+)\.setFillType\([^)]*$", body[: match.start()])
            rules[owner[1] if owner else now] = match[7] == "kEvenOdd"
            continue
        name, verb, values = match[4] or now, match[5], numbers(match[6]) if match[6].strip() else []
        if values is None:
            return None
        parts = data.setdefault(name, [])
        if verb == "close":
            parts.append("Z")
        elif verb == "addRect" and len(values) == 4:
            x0, y0, x1, y1 = values
            parts.append(f"M{x0!r} {y0!r}L{x1!r} {y0!r}L{x1!r} {y1!r}L{x0!r} {y1!r}Z")
        elif verb in LETTERS and len(values) == LETTERS[verb][1]:
            parts.append(("" if parts or verb == "moveTo" else "M0 0") + LETTERS[verb][0] + " ".join(map(repr, values)))
        else:
            return None
    return {name: ("".join(parts), rules.get(name, False)) for name, parts in data.items() if len(parts) > 2}


def main(folder: Path) -> None:
    single: list[list[object]] = []
    pairs: list[list[object]] = []
    seen: set[str] = set()
    for source in sorted(folder.rglob("PathOps*Test.cpp")):
        for name, body in FUNCTION.findall(source.read_text(encoding="utf-8", errors="replace")):
            if "for (" in body or (found := paths(body)) is None:
                continue
            operation = OPERATION.search(body)
            if operation and operation[1] in found and operation[2] in found:
                pairs.append([name, operation[3].lower(), *found[operation[1]], *found[operation[2]]])
            for index, (data, even_odd) in enumerate(found.values()):
                if data not in seen:
                    seen.add(data)
                    single.append([f"{name}#{index}" if len(found) > 1 else name, data, even_odd])
    json.dump({"paths": single, "pairs": pairs}, sys.stdout, indent=0)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
