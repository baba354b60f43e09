"""How much of everything there may be. The editor, files, recipes and programs are held to the same."""

MOST_SCENES = 100
MOST_LAYERS = 5_000
MOST_MODIFIERS = 20_000
MOST_KEYS = 200_000
MOST_PICTURES = 400
"""In a project."""

MOST_LAYERS_IN_SCENE = 2_000
MOST_LEVERS = 200
MOST_SNAPSHOTS = 100
"""In a scene."""

MOST_COPIES = 20_000
"""Copies in a scene: those of all its arrays, one array's inside the other's multiplied."""
MOST_SPARKS = 5_000
"""Sparks of an emitter that are alive at once."""
MOST_ARRAYS_DEEP = 3
MOST_GAUGES = 40
"""Arrays one inside the other; gauges of an array."""
MOST_POINTS, LEAST_POINTS = 2_000, 24
MOST_POINTS_OF_COPIES = 40_000
"""Points of an outline whose edge is moved, and those of all copies of it."""
MOST_FILTERS, MOST_BLUR = 16, 500
"""Filters of a layer; pixels of a blur's standard deviation."""
MOST_TEXELS, LEAST_TEXELS = 36_864, 256
"""Points of the grid of a texture, and of one of many copies."""
MOST_TRACED, MOST_TRACED_LINES = 60_000, 500
"""Vertices of a trace, and lines."""
MOST_CLIPS, MOST_CLIP_DATA = 40, 160 << 20
"""Clips of a project, and bytes of all of them together, as they stand in its file."""
MOST_EXPOSED = 64
"""Moments of a frame with motion blur."""
MOST_SHELLS = 24
"""Outlines inside an outline."""

MOST_DEPTH = 24
"""Groups one inside the other."""
MOST_RIGGED = 8
"""Settings one inside the other: the amplitude of a wiggle on the frequency of a wave on …"""
MOST_IN_CHAIN = 32
MOST_WINDOWS = 64

MOST_NUMBER = 1e9
MOST_FRAME = 1e7
LEAST_APART = 1e-6
"""Frames by which two keys of a parameter stand apart."""
MOST_LETTERS = 20_000
MOST_DRAWN_LETTERS = 2_000
"""Letters of a text that are kept, and that are drawn."""
