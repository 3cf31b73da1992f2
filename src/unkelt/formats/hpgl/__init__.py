"""HPGL: what plotters take."""
