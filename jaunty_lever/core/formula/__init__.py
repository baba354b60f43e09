"""The formula language: read, checked, and compiled to array operations."""
