"""Many files at a time: surveyed, mended or made on all cores, one bad file never stopping the rest."""
