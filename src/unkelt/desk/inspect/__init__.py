"""Inspect: the findings under the six questions, and the panel with the finding chosen."""
