"""Outlines: shapes, paths and text as arrays of points over time."""
