"""Mends every SVG file here into the folder `mended`, reads each back, and says what came of it."""

from pathlib import Path

from unkelt import api
from unkelt.errors import UnkeltError

out = Path("mended")
out.mkdir(exist_ok=True)
for path in sorted(Path().glob("*.svg")):
    try:
        sheet = api.read(path)
        mended = api.mend(sheet)
        api.write(mended.sheet, out / path.name, source=path)
    except UnkeltError as problem:  # one sentence: file, place, reason
        print(problem)
        continue
    verdict = api.proof(out / path.name).verdict
    steps = ", ".join(stage.call.name for stage in mended.stages if stage.outcome)
    print(f"{path}: {verdict}; {steps or 'nothing to mend'}")
    for sentence in mended.refused:
        print(f"  left: {sentence}")
