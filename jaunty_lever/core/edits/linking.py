"""Linking: one parameter, or several at once, made to follow a driver in one of several ways; and cutting links."""

from typing import Any, Literal

from pydantic import Field

from ..document.ids import Id, new_id
from ..document.keys import Finite, Frame, Key, Value
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter, mapped
from ..document.protocols import Values
from ..document.references import known_name
from ..document.scene import Scene
from ..document.specs import ParameterSpec, components, specs_of, value_of
from ..evaluation.graph import circle, misfit, out_of_reach
from ..formula.quantity import Unreadable, read_number
from ..motion import Between, Cam, Follow, Formula, Gear, Readout, Remap, Steer, Stops
from ..motion.fits import offered
from ..motion.stops import MOST_STOPS
from ..ties import remap_behind
from .base import Gone, Refused, SceneEdit, modifier_of, place_of, with_parameter
from .chains import with_modifier
from .meshing import gear_layer, mesh_between, rack_direction
from .steering import Steering, settled, steered
from .values import given_at

Way = Literal["as it is", "ratio", "remap", "gears", "between", "stops", "steer", "how fast"]

_NUMBER = ParameterSpec("number", 0.0, "The ratio")


def ways_for(follower: ParameterSpec, driver: ParameterSpec, component: int | None) -> tuple[Way, ...]:
    """In which ways a driver can drive a follower that it fits."""
    if driver.kind in ("switch", "choice"):
        return ("as it is", "stops") if misfit(follower, driver, component) is None and follower.stepped else ("stops",)
    if not follower.numeric or follower.stepped or not driver.numeric:
        single = driver.components == 1 or component is not None
        blends = follower.kind == "colour" and driver.numeric and single
        return ("between", "steer") if blends else ("as it is",)
    single = driver.components == 1 or component is not None
    found: list[Way] = ["as it is", "ratio"]
    if offered(Remap, follower):
        found.append("remap")
    if single and driver.kind in ("angle", "number") and follower.kind in ("angle", "number", "length", "vector"):
        found.append("gears")
    if single and offered(Between, follower):
        found.append("between")
    if single and offered(Steer, follower):
        found.append("steer")
    if offered(Remap, follower) and not driver.stepped:
        found.append("how fast")
    return tuple(found)


def unfit(follower: ParameterSpec, driver: ParameterSpec, component: int | None) -> str | None:
    """Why no way of linking fits; None when one does. A colour may stand between two others by a number."""
    if driver.kind in ("switch", "choice") and follower.kind != "text":
        many = len(driver.options) > MOST_STOPS and misfit(follower, driver, component)
        return f"it has {len(driver.options)} choices, and at most {MOST_STOPS} can be given values" if many else None
    if follower.kind == "colour" and driver.numeric and (driver.components == 1 or component is not None):
        return None
    return misfit(follower, driver, component)


def read_ratio(text: str, fps: float, at: str) -> tuple[float, str]:
    """The number in `2 : 1`, `360/31` or `-0.4`, and how it is written. Raises Refused."""
    plain = text.strip().replace("−", "-").replace(" ", "").replace(":", "/")
    try:
        return read_number(plain, _NUMBER, fps), plain if "/" in plain else ""
    except Unreadable as error:
        raise Refused(f"{error}".replace("This divides", "The ratio divides"), at) from None


class LinkTo(SceneEdit):
    """Make a parameter (and others `also`) follow a driver. A link that decided its value before is replaced.

    `ratio` may be written 2 : 1, 360/31 or 0.4: what the follower does for each one of the driver. The
    ranges of a remap, and the two values to stand between, are texts with units. `plus_each` (in the
    follower's unit) and `later_each` (in frames) grow from one follower to the next. A follower that is steered
    (towards a `goal`, by it or times it, where the driver is at the upper end of `source`) keeps all that it has.
    """

    kind: Literal["link to"] = "link to"
    parameter: str
    also: tuple[str, ...] = Field(default=(), max_length=500)
    driver: str
    component: int | None = Field(default=None, ge=0, le=3)
    way: Way = "as it is"
    whole: bool = Field(default=False, description="How fast: of all components together, not of one of them.")
    times: Finite = 1.0
    plus: Finite = 0.0
    delay: Finite = 0.0
    ratio: str = Field(default="", max_length=200)
    reverse: bool = False
    source: tuple[str, str] | None = None
    target: tuple[str, str] | None = None
    values: tuple[str, ...] = Field(default=(), max_length=MOST_STOPS)
    steers: Steering = "towards"
    goal: str = Field(default="", max_length=200)
    ends: str = "carry on"
    mesh: str = "external"
    driver_teeth: float | None = None
    driven_teeth: float | None = None
    module: float | None = None
    plus_each: Finite = 0.0
    later_each: Finite = 0.0
    axis: int | None = Field(default=None, ge=0, le=3, description="Only this component of the follower moves.")
    position: int | None = None
    id: Id = Field(default_factory=lambda: new_id("m"))

    def apply_to(self, scene: Scene) -> Scene:
        for number, parameter in enumerate(dict.fromkeys((self.parameter, *self.also))):
            scene = self._linked(scene, parameter, number)
        return scene

    def _linked(self, scene: Scene, parameter: str, number: int) -> Scene:
        node = place_of(scene, parameter)
        far = out_of_reach(scene.index, node, self.driver)
        driver = scene.index.target(scene.index.heard(node, self.driver))
        if driver is None and not far:
            raise Gone("What it should follow has been deleted.", parameter)
        if driver is None or far:
            said = driver.label if driver else self.driver
            raise Refused(f"“{node.label}” cannot follow “{said}”: {far}.", parameter)
        wrong = unfit(node.spec, driver.spec, self.component)
        if wrong:
            raise Refused(f"“{node.label}” cannot follow “{driver.label}”: {wrong}.", parameter)
        closed = circle(scene.index, parameter, driver.id)
        if closed:
            raise Refused(f"This link would close a circle: {closed}. Cut one of its links first.", parameter)
        ways = ways_for(node.spec, driver.spec, self.component)
        way: Way = self.way if self.way in ways or self.way != "as it is" else ways[0]
        if way not in ways and node.spec.kind != "text":
            raise Refused(
                f"“{node.label}” cannot follow “{driver.label}” by {way}. It can: {', '.join(ways)}.", parameter
            )
        if way != "steer":
            scene = without_tie(scene, parameter, self.axis if 1 < node.spec.components <= 3 else None)
        made = self._made(scene, node, driver, way, self.id if number == 0 else f"{self.id[:34]}-{number}", number)
        if self.axis is not None and 1 < node.spec.components <= 3:
            share = tuple(float(k == self.axis) for k in range(node.spec.components))
            led = (modifier for modifier in made if modifier.reaches(self.axis))
            made = tuple(modifier.changed(weights=Parameter(rest=share)) for modifier in led)
        for k, modifier in enumerate(made):
            scene = with_modifier(scene, parameter, modifier, None if self.position is None else self.position + k)
        return scene

    def _made(
        self, scene: Scene, node: ParameterNode, driver: ParameterNode, way: Way, link: str, number: int
    ) -> tuple[Modifier, ...]:
        listen: dict[str, Any] = {"id": link, "driver": self.driver, "component": self.component}
        if node.spec.kind == "text":
            suffix = {"%": " %", "°": "°"}.get(driver.spec.unit, "")
            return (Readout(**listen, suffix=Parameter(rest=suffix)),)
        plus, delay = self.plus + number * self.plus_each, self.delay + number * self.later_each / scene.fps
        later = {"delay": Parameter(rest=delay)}
        if way == "gears":
            return (self._gear(scene, node, driver, listen, number),)
        if way == "remap":
            low, high = self._range(scene, self.source, driver.spec, "The driver's range")
            return (Follow(**listen, **later), self._remap(scene, node, (low, high), link, number))
        if way == "how fast":
            if delay:
                raise Refused("Put a Shift behind it to have it later.", node.id)
            return self._how_fast(scene, node, driver, link, number)
        if way == "stops":
            return (self._stops(scene, node, driver, listen),)
        if way == "steer":
            if delay:
                raise Refused("What steers acts at once: put a Shift behind it to have it later.", node.id)
            low, high = self._range(scene, self.source or ("0", "1"), driver.spec, "The driver's range")
            ends = (high, low) if self.reverse else (low, high)
            more = number * self.plus_each
            return steered(node, listen, self.steers, self.goal, ends, more, scene.fps)
        if way == "between":
            return (self._between(scene, node, driver, listen, later, number),)
        times, typed = (self.times, "")
        if way == "ratio":
            times, typed = read_ratio(self.ratio, scene.fps, node.id)
        if self.reverse:
            times = -times
            typed = (typed[1:] if typed.startswith("-") else f"-{typed}") if typed else ""
        factor = Parameter(rest=times, typed=(typed,) if typed else ())
        return (Follow(**listen, **later, times=factor, plus=Parameter(rest=plus)),)

    def _how_fast(
        self, scene: Scene, node: ParameterNode, driver: ParameterNode, link: str, number: int
    ) -> tuple[Modifier, ...]:
        """A formula that tells how fast the driver moves, and a range that this is led to."""
        if known_name(self.driver) is not None:
            raise Refused("What a copy knows of itself stands still: follow a value of it.", node.id)
        pace = ParameterSpec("number", 0.0, "How fast it moves")
        source = self._range(scene, self.source, pace, "The driver's speeds")
        of = f"$<{self.driver}>"
        if self.component is not None and not self.whole and driver.spec.components > 1:
            of += f".{driver.spec.component_names[self.component]}"
        return (Formula(id=link, text=f"speed({of})"), self._remap(scene, node, source, link, number))

    def _remap(self, scene: Scene, node: ParameterNode, source: tuple[float, float], link: str, number: int) -> Remap:
        """From a range to the one that the follower goes through."""
        low, high = (v + number * self.plus_each for v in self._range(scene, self.target, node.spec, "Its range"))
        values = {"from_low": source[0], "from_high": source[1], "to_low": low, "to_high": high}
        return Remap(
            id=f"{link[:38]}-r",
            reverse=Parameter(rest=self.reverse),
            ends=Parameter(rest=self._ends()),
            **{name: Parameter(rest=value) for name, value in values.items()},
        )

    def _ends(self) -> str:
        if self.ends not in ("carry on", "stop", "wrap", "fold"):
            raise Refused("The ends carry on, stop, wrap or fold.", self.parameter)
        return self.ends

    def _range(
        self, scene: Scene, texts: tuple[str, str] | None, spec: ParameterSpec, what: str
    ) -> tuple[float, float]:
        if texts is None:
            raise Refused(f"{what} is missing: give its two ends.", self.parameter)
        try:
            low, high = (read_number(text, spec, scene.fps) for text in texts)
        except Unreadable as error:
            raise Refused(f"{what}: {error}", self.parameter) from None
        if low == high and what.startswith("The driver"):
            raise Refused(f"{what} is empty: both ends are {texts[0].strip()}.", self.parameter)
        return low, high

    def _between(
        self,
        scene: Scene,
        node: ParameterNode,
        driver: ParameterNode,
        listen: dict[str, Any],
        later: dict[str, Parameter],
        number: int,
    ) -> Modifier:
        if node.spec.kind == "colour":
            ends: list[Value] = list(self.target or ("#22303c", "#fffdf8"))
            for end in ends:
                try:
                    components(end, node.spec)
                except ValueError as error:
                    raise Refused(f"{error}.", node.id) from None
        else:
            ends = [v + number * self.plus_each for v in self._range(scene, self.target, node.spec, "The two values")]
        if self.reverse:
            ends.reverse()
        link = str(listen["id"])
        inner: tuple[Modifier, ...] = (Follow(**{**listen, "id": f"{link[:38]}-f"}, **later),)
        low, high = self._range(scene, self.source, driver.spec, "The driver's range")
        if (driver.spec.unit, low, high) != ("%", 0.0, 100.0):
            amount = {"from_low": low, "from_high": high, "to_low": 0.0, "to_high": 100.0}
            inner = (*inner, Remap(id=f"{link[:38]}-r", **{n: Parameter(rest=v) for n, v in amount.items()}))
        a, b = ends
        return Between(id=link, a=Parameter(rest=a), b=Parameter(rest=b), amount=Parameter(rest=0.0, chain=inner))

    def _stops(self, scene: Scene, node: ParameterNode, driver: ParameterNode, listen: dict[str, Any]) -> Modifier:
        count = 2 if driver.spec.kind == "switch" else len(driver.spec.options)
        if len(self.values) != count:
            raise Refused(f"“{driver.label}” has {count} places: give a value for each.", node.id)
        read: dict[str, Parameter] = {}
        for k, text in enumerate(self.values):
            value: Value = text
            try:
                if node.spec.kind == "switch":
                    value = text.strip().lower() in ("on", "true", "1")
                elif node.spec.numeric:
                    value = read_number(text, node.spec, scene.fps)
                components(value, node.spec)
            except ValueError as error:
                raise Refused(f"{error}".rstrip(".") + ".", node.id) from None
            read[f"stop_{k + 1}"] = Parameter(rest=value)
        return Stops(**listen, count=max(count, 2), high=Parameter(rest=float(max(count - 1, 1))), **read)

    def _gear(
        self, scene: Scene, node: ParameterNode, driver: ParameterNode, listen: dict[str, Any], number: int
    ) -> Modifier:
        if self.later_each or self.delay:
            raise Refused("Wheels in mesh turn at once: they cannot follow later.", node.id)
        settings: dict[str, Any] = {"mesh": self.mesh}
        one, two = gear_layer(scene, driver.id), gear_layer(scene, node.id)
        if one is not None and two is not None and self.mesh in ("external", "internal", "rack"):
            settings["mesh"] = mesh_between(one, two)
        if settings["mesh"] == "rack" or node.spec.components > 1:
            settings["mesh"] = "rack"
            upwards = -90.0
            settings["direction"] = rack_direction(scene, one, two) if one and two else upwards
        for name in ("driver_teeth", "driven_teeth", "module"):
            value = getattr(self, name)
            layer = {"driver_teeth": one, "driven_teeth": two, "module": one}[name]
            if name == "driver_teeth" and self.mesh == "screw":
                layer = None
            if value is None and layer is not None:
                value = components((layer.module if name == "module" else layer.teeth).rest, node.spec)[0]
            if value is not None:
                settings[name] = value
        specs = specs_of(Gear)
        for name, value in settings.items():
            try:
                components(value, specs[name])
            except ValueError as error:
                raise Refused(f"{error}.", node.id) from None
        if self.reverse:
            settings["reverse"] = True
        if self.plus_each:
            settings |= {"phase": number * self.plus_each, "meshed": False}
        return Gear(**listen, **{name: Parameter(rest=value) for name, value in settings.items()})

    def label_in(self, scene: Scene) -> str:
        node = place_of(scene, self.parameter)
        driver = scene.index.target(scene.index.heard(node, self.driver))
        name = driver.label if driver else "nothing"
        if self.also:
            return f"{len(self.also) + 1} values follow {name}"
        return f"{place_of(scene, self.parameter).title} follows {name}"


def is_tie(modifier: Modifier) -> bool:
    """Whether a modifier ties its parameter to a driver, through its amount for Between."""
    return modifier.linked or (isinstance(modifier, Between) and amount_driver(modifier) is not None)


def amount_driver(modifier: Between) -> Modifier | None:
    """The link that drives a Between's amount."""
    chain = modifier.amount.chain
    return chain[0] if chain and chain[0].linked and not modifier.amount.bypassed else None


def _tie_length(chain: tuple[Modifier, ...], at: int) -> int:
    """How many modifiers a tie takes up: a Follow and the Remap right behind it, which speaks of the driver, are
    one."""
    return 2 if remap_behind(chain, at) else 1


def without_tie(scene: Scene, parameter: str, component: int | None = None) -> Scene:
    """The scene without the links that decide a parameter's value, or one component of it alone: a new one would only
    hide them."""
    node = place_of(scene, parameter)
    chain, kept, k = node.parameter.chain, [], 0
    others = set(range(node.spec.components)) - {component} if component is not None else set()
    while k < len(chain):
        length = _tie_length(chain, k)
        hidden = not any(map(chain[k].reaches, others))
        if is_tie(chain[k]) and chain[k].decides() and not chain[k].windows and hidden:
            k += length
        else:
            kept.append(chain[k])
            k += 1
    return with_parameter(scene, parameter, chain=tuple(kept)) if len(kept) != len(chain) else scene


def unlinked(scene: Scene, modifier: str, frame: float) -> Scene:
    """The scene without a link; its follower rests where the link had put it at `frame`."""
    found = modifier_of(scene, modifier)
    node = place_of(scene, found.parameter)
    own = node.parameter
    last = found.position + _tie_length(own.chain, found.position)
    if isinstance(found.modifier, Steer | Cam):
        stays = settled(scene, node, found, frame)
        chain = (*own.chain[: found.position], *stays, *own.chain[last:])
        return with_parameter(scene, found.parameter, chain=chain)
    given = given_at(scene, node.id, last, frame)
    before = own.chain[: found.position]
    chain = (*before, *own.chain[last:])
    if own.bypassed or found.modifier.bypassed or node.spec.kind == "text":
        return with_parameter(scene, found.parameter, chain=chain)
    alone = [k for k in range(node.spec.components) if found.modifier.reaches(k)]
    if len(alone) < node.spec.components:
        return _rested(scene, node, alone, given, chain)
    # What stood before a link no longer adds to a value that already holds its effect; it is kept, switched off.
    chain = (*(m.changed(bypassed=True) for m in before), *own.chain[last:])
    rest = value_of(tuple(float(v) for v in given), node.spec)
    keys: tuple[Key, ...] = ()
    return with_parameter(scene, found.parameter, rest=rest, keys=keys, chain=chain, typed=())


def _rested(scene: Scene, node: ParameterNode, alone: list[int], given: Values, chain: tuple[Modifier, ...]) -> Scene:
    """The scene with some components of a value at rest where they were, and the others as they are."""

    def mixed(value: Value) -> Value:
        now = components(value, node.spec)
        return value_of(tuple(float(given[k]) if k in alone else v for k, v in enumerate(now)), node.spec)

    made = mapped(node.parameter, mixed)
    return with_parameter(scene, node.id, rest=made.rest, keys=made.keys, chain=chain, typed=made.typed)


class Unlink(SceneEdit):
    """Cut a link; the follower stays where it stands at `frame`."""

    kind: Literal["unlink"] = "unlink"
    modifier: str
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        return unlinked(scene, self.modifier, self.frame)

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, modifier_of(scene, self.modifier).parameter).title} no longer linked"
