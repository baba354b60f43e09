"""Benchmarks: ratios within one run, since machines differ. Nothing here asserts a time."""
