"""Open formats: one file each."""
