"""Bytes to sheet and back."""
