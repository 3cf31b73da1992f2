"""What `painter.py` runs in a process of its own: one drawing from standard input, as PNG to standard output.

It imports nothing but what it needs, so that it starts in a few hundredths of a second.
"""

import resource
import sys

MOST_MEMORY = 4 << 30
"""Bytes that painting may take."""


def main() -> int:
    """Fields between NULs: the width in pixels, files of faces, the drawing. One that can't be painted ends in
    a line on standard error.
    """
    sys.path.append(sys.argv[1])
    import resvg_py

    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    columns, *faces, svg = sys.stdin.buffer.read().decode().split("\0")
    try:
        png = resvg_py.svg_to_bytes(
            svg_string=svg,
            width=int(columns),
            dpi=96,
            background="#ffffff",
            font_files=faces,
            skip_system_fonts=True,
        )
    except ValueError as problem:
        print(problem, file=sys.stderr)
        return 1
    sys.stdout.buffer.write(bytes(png))
    return 0


if __name__ == "__main__":
    sys.exit(main())
