"""Evidence that several steps give alike."""

from __future__ import annotations

from unkelt.geometry.matching import Matched


def counted(matched: Matched) -> dict[str, int]:
    """Counters in evidence: how many there were and are, and of those which are the same."""
    return {
        "counters_before": len(matched.kept) + len(matched.closed),
        "counters_after": len(matched.kept) + len(matched.new),
        "counters_kept": len(matched.kept),
        "counters_closed": len(matched.closed),
        "counters_new": len(matched.new),
    }
