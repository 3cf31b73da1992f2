"""PDF, read."""
