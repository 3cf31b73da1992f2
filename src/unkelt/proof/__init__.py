"""The proof: the written file read as importing software would, by a reader that shares no code with formats/."""
