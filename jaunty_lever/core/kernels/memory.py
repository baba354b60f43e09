"""Keeps the memory of long arrays at hand between one and the next.

The C library gives the memory of a freed long array back to the system, and the next array then pays for each of its
pages anew: filling fresh pages takes ten times as long as filling pages that have been used. A chain makes one array
after the other, so what one leaves is kept for the next.
"""

import ctypes
import sys

_TRIM_THRESHOLD, _MMAP_THRESHOLD = -1, -3
"""Parameters of glibc's mallopt, from malloc.h."""
_KEPT = 128 << 20
_LONGEST = 32 << 20
"""Longer arrays come from the system as before: in large pages, which are cheap to begin with."""


def keep_freed() -> bool:
    """Asks the C library to hold up to 128 MB that were freed; whether it can."""
    if not sys.platform.startswith("linux"):
        return False
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        # A C library with rules of its own.
        return False
    return bool(mallopt(_MMAP_THRESHOLD, _LONGEST)) and bool(mallopt(_TRIM_THRESHOLD, _KEPT))
