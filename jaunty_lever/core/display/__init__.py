"""The display list: everything that is needed to draw a scene's frames, and nothing more.

It is a tree of nodes. A node has a kind (one file each: `shape`, `picture`, `group`), named channels, and what never
varies. Whoever draws has one file for each kind too: Skia in `drawing.nodes`, Canvas 2D in `static/js/display`.
"""
