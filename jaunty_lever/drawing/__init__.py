"""Frame tables to pixels, with Skia."""
