"""What packages and their files are called, and which formats they hold."""

from __future__ import annotations

PATTERN = "{job}-r{revision}"
"""Names a package; it may hold job, source, size, date and revision."""

FORMATS = (".svg", ".dxf", ".pdf", ".plt")
