"""What goes into JSON and comes out of it."""

from __future__ import annotations

from typing import Any

Facts = dict[str, Any]
"""A JSON object: its values are texts, numbers, lists or objects again, which no type can say briefly."""
