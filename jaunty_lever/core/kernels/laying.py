"""Where what comes and goes stands in rows of places, and rows that are filled from settings."""

from .compiled import Filled, Floats, Whole, inner, kernel


@kernel(strided=True)
def lay(first: int, last: int, row: Whole, place: Whole, values: Floats, out: Filled) -> None:
    """out[row[i], place[i]] = values[i] or values[0], for the samples first..last; values (n or 1, width)."""
    moves = len(values) > 1
    for i in range(first, last):
        for k in range(out.shape[2]):
            out[row[i], place[i], k] = values[i * moves, k]


@kernel
def counted_within(parents: Whole, when: Whole, out: Filled) -> None:
    """out[i] = how many just before i have the same parent and the same moment; all (n,)."""
    for i in range(len(parents)):
        out[i] = out[i - 1] + 1 if i and parents[i] == parents[i - 1] and when[i] == when[i - 1] else 0


@inner
def fill(part: Floats, begin: int, row: Floats) -> None:
    """A row of numbers (n,), from `begin` on, or of one (1,) that is the same for all. Loops over what lies side by
    side are what compilers do best; an index times 0 or 1 is not."""
    if part.size == 1:
        for j in range(len(row)):
            row[j] = part[0]
    else:
        some = part[begin : begin + len(row)]
        for j in range(len(row)):
            row[j] = some[j]
