"""How gear wheels stand to each other: the right distance, and the phase at which teeth meet gaps."""

from dataclasses import dataclass
from math import atan2, cos, degrees, hypot, pi, radians, sin

WHEEL, RING, RACK = 0, 1, 2

UPWARDS = -90.0
"""Where a wheel's first tooth points when it has not turned, in degrees (clockwise, y down)."""


@dataclass(frozen=True)
class Standing:
    """A gear on the stage: form, teeth, module in stage pixels, centre, and the turn of what it lies in (degrees)."""

    form: int
    teeth: int
    module: float
    x: float
    y: float
    turn: float = 0.0
    own: float = 0.0
    """Its own rotation."""


def distance(one: Standing, two: Standing) -> float | None:
    """The distance of centres at which two gears mesh; to a rack, from the centre to its pitch line; None if never."""
    if abs(one.module - two.module) > 1e-3 * max(one.module, two.module):
        return None
    forms = {one.form, two.form}
    if forms == {WHEEL}:
        return one.module * (one.teeth + two.teeth) / 2
    if forms == {WHEEL, RING}:
        wheel, ring = (one, two) if one.form == WHEEL else (two, one)
        return one.module * (ring.teeth - wheel.teeth) / 2 if ring.teeth > wheel.teeth else None
    if forms == {WHEEL, RACK}:
        return one.module * (one if one.form == WHEEL else two).teeth / 2
    return None


def snapped(moved: Standing, other: Standing, reach: float) -> tuple[float, float] | None:
    """How far to shift a gear so that it meshes with another; None when that is further than `reach` pixels."""
    wanted = distance(moved, other)
    if wanted is None:
        return None
    if RACK in (moved.form, other.form):
        rack, wheel = (moved, other) if moved.form == RACK else (other, moved)
        # The rack's teeth point away from its body: the wheel stands on that side.
        nx, ny = _normal(rack)
        now = (wheel.x - rack.x) * nx + (wheel.y - rack.y) * ny
        step = wanted - now if moved is wheel else now - wanted
        return (step * nx, step * ny) if abs(step) <= reach else None
    dx, dy = moved.x - other.x, moved.y - other.y
    now = hypot(dx, dy)
    if now == 0:
        return (wanted, 0.0) if wanted <= reach else None
    step = wanted - now
    return (dx / now * step, dy / now * step) if abs(step) <= reach else None


def _normal(rack: Standing) -> tuple[float, float]:
    turn = radians(rack.turn + rack.own)
    return sin(turn), -cos(turn)


def phase(driver: Standing, follower: Standing, start: float, direction: float = 0.0) -> float:
    """What to add to the follower's value so that its teeth stand in the driver's gaps at every angle.

    For wheels degrees, between half a tooth back and half a tooth on; `start` is the follower's value while
    the driver stands at 0. For a rack that is driven, pixels along its `direction` (degrees).
    """
    if follower.form == RACK:
        return _rack_phase(driver, follower, direction)
    across = degrees(atan2(follower.y - driver.y, follower.x - driver.x))
    # Teeth (and parts of them) counted from each wheel's first tooth to the point where they touch.
    if RING in (driver.form, follower.form):
        touch = across if driver.form == RING else across + 180
        mine = (touch - driver.turn - UPWARDS) * driver.teeth / 360
        # A ring counts gaps where a wheel counts teeth: they meet where both counts are whole.
        teeth = (touch - follower.turn - UPWARDS) * follower.teeth / 360 - mine
    else:
        mine = (across - driver.turn - UPWARDS) * driver.teeth / 360
        teeth = (across + 180 - follower.turn - UPWARDS) * follower.teeth / 360 + mine - 0.5
    pitch = 360 / follower.teeth
    return _nearest(teeth * pitch - start, pitch)


def _rack_phase(wheel: Standing, rack: Standing, direction: float) -> float:
    """Shift of a driven rack along its own run, between half a pitch back and half a pitch on."""
    nx, ny = _normal(rack)
    touch = degrees(atan2(-ny, -nx))
    mine = (touch - wheel.turn - UPWARDS) * wheel.teeth / 360
    pitch = pi * rack.module
    # The rack runs along (−ny, nx); where the wheel touches it, measured from its middle tooth.
    along = (wheel.x - rack.x) * -ny + (wheel.y - rack.y) * nx
    # Teeth of the wheel go round clockwise: at the bottom of a wheel, clockwise is backwards along the rack.
    shift = along + (mine - 0.5) * pitch
    heading = cos(radians(direction)) * -ny + sin(radians(direction)) * nx
    return _nearest(shift, pitch) * (1.0 if heading >= 0 else -1.0)


def _nearest(value: float, pitch: float) -> float:
    left = value % pitch
    return left - pitch if left > pitch / 2 else left
