"""Gauges read one number for each copy: how far a sweep has reached it, how near a zone is. Each has a file."""
