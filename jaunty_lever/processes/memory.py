"""How much memory a process may take."""

import resource


def hold_to(most: int) -> None:
    """Bound the address space of this process to so many bytes, or to what it is bounded to already."""
    hard = resource.getrlimit(resource.RLIMIT_AS)[1]
    bound = most if hard == resource.RLIM_INFINITY else min(most, hard)
    resource.setrlimit(resource.RLIMIT_AS, (bound, bound))
