"""Benchmarks: what our code takes beside the raw library doing the same work, in one run. `./dev bench`."""
