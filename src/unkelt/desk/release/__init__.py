"""Release: what goes out, and what still holds."""
