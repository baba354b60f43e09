"""Keeping projects: SQLite, revisions, undo and redo."""
