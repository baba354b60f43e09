"""Where sparks are: thrown, pulled by gravity and slowed by drag, in closed form."""

import numpy as np

from .compiled import Filled, Floats, Whole, inlined, inner, kernel
from .laying import fill
from .noise import even, stream_of
from .sine import cosine, fallen, heading, sine

_BLOCK = 256


@inlined
def _reached(drag: float, age: float) -> tuple[float, float, float]:
    """How far a unit of velocity has led after an age, how far a unit of gravity, and how much of the velocity is left.

    r = ∫ e^(−drag·τ) dτ from 0 to the age; gravity leads to ∫ r.
    """
    x = drag * age
    # Less than is left after that shows nowhere.
    left = fallen(min(max(x, 0.0), 700.0))
    slow = max(drag, 1e-300)
    r = (1.0 - left) / slow
    far = (age - r) / slow
    # Where the quotients lose their figures: what they are by their series.
    short = x < 1e-4
    r = age * (1.0 - x / 2.0 + x * x / 6.0) if short else r
    far = age * age * (0.5 - x / 6.0 + x * x / 24.0) if short else far
    return r, far, 1.0 - x + x * x / 2.0 if short else left


@inner
def _stray(row: Floats, share: Floats, first: int, most: float, chance: Floats) -> None:
    """Moves each value of a row by a random share of it: `chance` in −1..1, the share (n,) or (1,) in percent, at most
    so much."""
    if share.size == 1:
        part = min(max(share[0] / 100.0, 0.0), most)
        for j in range(len(row)):
            row[j] *= 1.0 + part * chance[j]
    else:
        shares = share[first : first + len(row)]
        for j in range(len(row)):
            row[j] *= 1.0 + min(max(shares[j] / 100.0, 0.0), most) * chance[j]


@kernel(strided=True)
def throw(
    first: int,
    last: int,
    numbers: Whole,
    seeds: Whole,
    birth: Floats,
    lifetime: Floats,
    lifetime_random: Floats,
    direction: Floats,
    spread: Floats,
    speed: Floats,
    speed_random: Floats,
    spin: Floats,
    spin_random: Floats,
    drag: Floats,
    gravity_x: Floats,
    gravity_y: Floats,
    again: float,
    born: Filled,
) -> None:
    """Writes what decides about sparks by number, see `fly`, but for where they start.

    Settings at the births, (n,) or (1,); seeds (4,) of what is random: lifetime, angle, speed and spin. What is never
    born, at an infinite time, has no life.
    """
    # Rows by themselves lie side by side, for compilers too.
    some, births, begins, lives = numbers[first:last], birth[first:last], born[0][first:last], born[1][first:last]
    vx, vy, drags, turns, spins = (
        born[4][first:last],
        born[5][first:last],
        born[6][first:last],
        born[9][first:last],
        born[10][first:last],
    )
    chances = np.empty((4, len(some)))
    for k in range(4):
        stream, chance = stream_of(seeds[k], 0, 0), chances[k]
        for j in range(len(some)):
            chance[j] = even(stream, some[j])
    fill(lifetime, first, lives)
    _stray(lives, lifetime_random, first, 1.0, chances[0])
    most = again if again > 0.0 else 1e300
    for j in range(len(lives)):
        lives[j] = (min(lives[j], most) if lives[j] > 0.0 else 0.0) if abs(births[j]) < np.inf else 0.0
        begins[j] = births[j] if abs(births[j]) < np.inf else np.inf
    fill(direction, first, turns)
    fill(spread, first, vx)
    wide = chances[1]
    for j in range(len(turns)):
        turns[j] = (turns[j] + vx[j] * wide[j]) / 360.0
    fill(speed, first, vy)
    _stray(vy, speed_random, first, 1.0, chances[2])
    for j in range(len(turns)):
        vx[j] = vy[j] * sine(turns[j])
    for j in range(len(turns)):
        vy[j] = -vy[j] * cosine(turns[j])
        turns[j] = 0.0
    fill(drag, first, drags)
    fill(gravity_x, first, born[7][first:last])
    fill(gravity_y, first, born[8][first:last])
    fill(spin, first, spins)
    for j in range(len(drags)):
        drags[j] = min(max(drags[j], 0.0), 1e3)
    _stray(spins, spin_random, first, 10.0, chances[3])


@kernel
def fly(first: int, last: int, which: Whole, times: Floats, born: Floats, again: float, out: Filled) -> None:
    """out[0…7, i] = age, life, x, y, and the velocity's x and y, turn, and 1 where it is alive, of spark which[i] at
    times[i].

    `born` has a row for each of: birth, lifetime, start x and y, velocity x and y, drag, gravity x and y, turn at
    birth, spin (degrees a second); start z and velocity z, which are needed where `out` has a row for z, the ninth.
    `again`: seconds after which each is born anew; 0: never. Before its birth a spark stands where it is thrown from,
    after its end where that came.
    """
    deep = len(out) > 8
    ages, lives, drags = np.empty(_BLOCK), np.empty(_BLOCK), np.empty(_BLOCK)
    reach, fall, left = np.empty(_BLOCK), np.empty(_BLOCK), np.empty(_BLOCK)
    # Block by block: what is fetched by number one by one, what is alike for all at once.
    for begin in range(first, last, _BLOCK):
        count = min(_BLOCK, last - begin)
        some = which[begin : begin + count]
        for j in range(count):
            k = some[j]
            ages[j], lives[j], drags[j] = times[begin + j] - born[0, k], born[1, k], born[6, k]
        if again > 0.0:
            for j in range(count):
                ages[j] = max(ages[j] - np.floor(ages[j] / again + 1e-12) * again, 0.0)
        age_row, life_row, alive_row = out[0, begin:last], out[1, begin:last], out[7, begin:last]
        for j in range(count):
            long = lives[j]
            age = min(max(ages[j], 0.0), long)
            alive_row[j] = 1.0 if (ages[j] >= 0.0) & (ages[j] < long) else 0.0
            age_row[j] = age
            life_row[j] = age / long if long > 0.0 else 1.0
            reach[j], fall[j], left[j] = _reached(drags[j], age)
        for j in range(count):
            i, k = begin + j, some[j]
            vx, vy, gx, gy = born[4, k], born[5, k], born[7, k], born[8, k]
            out[2, i] = born[2, k] + vx * reach[j] + gx * fall[j]
            out[3, i] = born[3, k] + vy * reach[j] + gy * fall[j]
            out[4, i] = vx * left[j] + gx * reach[j]
            out[5, i] = vy * left[j] + gy * reach[j]
            out[6, i] = born[9, k] + born[10, k] * out[0, i]
        if deep:
            for j in range(count):
                k = some[j]
                out[8, begin + j] = born[11, k] + born[12, k] * reach[j]


@kernel
def headed(first: int, last: int, turn: Floats, vx: Floats, vy: Floats, out: Filled) -> None:
    """out[i] = turn[i] and the way of the velocity, degrees; all (n,)."""
    for i in range(first, last):
        out[i] = turn[i] + heading(vx[i], vy[i])


@kernel
def pairs(
    first: Whole, count: Whole, times: Floats, lowest: int, born: Floats, most: int, when: Filled, number: Filled
) -> int:
    """The sparks that are alive at each of the times, of those numbered first[t] … first[t] + count[t] − 1; of more
    than `most` the newest. Writes the position of the time and the number of each; how many there are."""
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
