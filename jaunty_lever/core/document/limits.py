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
