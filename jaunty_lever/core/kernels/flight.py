"""Where sparks are: thrown, pulled by gravity and slowed by drag, in closed form."""

import numpy as np

from .compiled import Floats, Whole, inlined, kernel
from .sine import fallen


@inlined
def _reached(drag: float, age: float) -> tuple[float, float, float]:
    """How far a unit of velocity has led after an age, how far a unit of gravity, and how much of the velocity is left.

    r = ∫ e^(−drag·τ) dτ from 0 to the age; gravity leads to ∫ r.
    """
    x = drag * age
    if abs(x) < 1e-4:
        # Where the quotients lose their figures: what they are by their series.
        r = age * (1.0 - x / 2.0 + x * x / 6.0)
        return r, age * age * (0.5 - x / 6.0 + x * x / 24.0), 1.0 - x + x * x / 2.0
    # Less than is left after that shows nowhere.
    left = fallen(min(x, 700.0))
    r = (1.0 - left) / drag
    return r, (age - r) / drag, left


@kernel
def fly(first: int, last: int, which: Whole, times: Floats, born: Floats, again: float, out: Floats) -> None:
    """out[0…7, i] = age, life, x, y, and the velocity's x and y, turn, and 1 where it is alive, of spark which[i] at times[i].

    `born` has a row for each of: birth, lifetime, start x and y, velocity x and y, drag, gravity x and y, turn at birth,
    spin (degrees a second); start z and velocity z, which are needed where `out` has a row for z, the ninth. `again`: seconds after which each is born anew; 0: never. Before its birth a spark stands
    where it is thrown from, after its end where that came.
    """
    deep = len(out) > 8
    for i in range(first, last):
        k = which[i]
        age = times[i] - born[0, k]
        if again > 0.0:
            age -= np.floor(age / again + 1e-12) * again
            age = max(age, 0.0)
        alive = 0.0 <= age < born[1, k]
        age = min(max(age, 0.0), born[1, k])
        r, g, left = _reached(born[6, k], age)
        vx, vy, gx, gy = born[4, k], born[5, k], born[7, k], born[8, k]
        out[0, i] = age
        out[1, i] = age / born[1, k] if born[1, k] > 0.0 else 1.0
        out[2, i] = born[2, k] + vx * r + gx * g
        out[3, i] = born[3, k] + vy * r + gy * g
        out[4, i] = vx * left + gx * r
        out[5, i] = vy * left + gy * r
        out[6, i] = born[9, k] + born[10, k] * age
        out[7, i] = 1.0 if alive else 0.0
        if deep:
            out[8, i] = born[11, k] + born[12, k] * r


@kernel
def headed(first: int, last: int, turn: Floats, vx: Floats, vy: Floats, out: Floats) -> None:
    """out[i] = turn[i] and the way of the velocity, degrees; all (n,)."""
    for i in range(first, last):
        out[i] = turn[i] + np.rad2deg(np.arctan2(vy[i], vx[i]))


@kernel
def pairs(
    first: Whole, count: Whole, times: Floats, lowest: int, born: Floats, most: int, when: Whole, number: Whole
) -> int:
    """The sparks that are alive at each of the times, of those numbered first[t] … first[t] + count[t] − 1; of more than
    `most` the newest. Writes the position of the time and the number of each; how many there are."""
    found = 0
    for t in range(len(times)):
        begun = found
        for k in range(first[t], first[t] + count[t]):
            age = times[t] - born[0, k - lowest]
            if 0.0 <= age < born[1, k - lowest]:
                when[found], number[found] = t, k
                found += 1
        over = found - begun - most
        if over > 0:
            for j in range(begun, found - over):
                number[j] = number[j + over]
            found -= over
    return found
