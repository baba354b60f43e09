"""Display lists to pixels, with Skia."""
