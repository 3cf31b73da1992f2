"""The model: an immutable sheet of items, and what they look like. Begin with `model.py`."""
