"""Where the copies of an array stand before anything moves them, and in which order they are counted.

Coordinates are the array's own, px, its origin in the middle, x right, y down. Everything here is a pure function of
the copy's number: none remembers another.
"""
