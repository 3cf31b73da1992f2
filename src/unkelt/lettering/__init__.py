"""Text and a face make outlines: faces, shaping, setting."""
