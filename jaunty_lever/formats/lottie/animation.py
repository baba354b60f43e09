"""From a Lottie file to layers: compositions, transforms and parents. What is not read is remarked on, the rest comes
in.

Source: the Lottie specification of the Lottie Animation Community, lottie.github.io/lottie-spec.
"""

import base64
import binascii
import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from jaunty_lever.core.document.compositing import BLENDS
from jaunty_lever.core.document.ids import new_id, one_line
from jaunty_lever.core.document.limits import MOST_LAYERS_IN_SCENE
from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.document.scene_content import LEAST_RATE, MOST_FRAMES, MOST_PIXELS, MOST_RATE

from ..open_json import BadFile, load
from ..pictures import BadPicture, take_in
from ..remarks import Remarks
from .moving import Clock
from .shapes import Shapes, hex_of
from .values import Values

MOST_BYTES = 64 << 20
DEEPEST = 18
"""Groups one inside the other: compositions, parents and shapes together."""
_MOST_WAYS = 20_000

Layer = dict[str, Any]
_NOT_READ = {
    "masksProperties": "Masks",
    "ef": "Effects",
    "tm": "Times that are changed within compositions",
}


@dataclass
class LottieDrawing:
    """What came out of a file: layers as plain data, the lowest first, their keys in frames of `fps`."""

    name: str
    width: int
    height: int
    fps: float
    length: int
    layers: list[Layer]
    pictures: list[Picture]
    remarks: list[str]


def read(content: bytes, name: str = "Animation", fps: float | None = None) -> LottieDrawing:
    """A Lottie file as layers; with `fps`, its keys are put to that rate. Raises BadFile, in words."""
    data = load(content, MOST_BYTES)
    if not isinstance(data, dict) or not isinstance(data.get("layers"), list):
        raise BadFile("This is no Lottie animation: it has no list of layers.")
    try:
        return _Reader(data, fps).drawing(name)
    except RecursionError:
        raise BadFile("The animation is nested too deep.") from None


@dataclass
class _Reader:
    data: dict[str, Any]
    wanted: float | None
    remarks: Remarks = field(default_factory=Remarks)
    pictures: dict[str, Picture] = field(default_factory=dict)
    layers: int = 0
    asked: int = 0

    def drawing(self, name: str) -> LottieDrawing:
        data = self.data
        wide, high = (self._figure(data.get(side), 512, 1, 100_000) for side in ("w", "h"))
        rate = self._figure(data.get("fr"), 30, LEAST_RATE, MOST_RATE)
        first = self._figure(data.get("ip"), 0, -1e6, 1e6)
        last = self._figure(data.get("op"), first + rate, first, first + 1e7)
        fps = self.wanted or rate
        clock = Clock(-first * fps / rate, fps / rate)
        length = max(1, min(MOST_FRAMES, round((last - first) * fps / rate)))
        assets = (
            [one for one in data.get("assets") or () if isinstance(one, dict)]
            if isinstance(data.get("assets"), list)
            else []
        )
        self.assets = {str(one.get("id")): one for one in assets}
        self.values = Values(self.remarks)
        self.shapes = Shapes(self.values, self._count)
        self.length = length
        layers = self._composition(data["layers"], clock, (), 0)
        if not layers:
            raise BadFile("Nothing is drawn in this animation." + self.remarks.first())
        if max(wide, high) > MOST_PIXELS:
            factor = MOST_PIXELS / max(wide, high)
            self.remarks(f"The animation is {wide:,.0f} × {high:,.0f}; it comes in smaller")
            layers = [self._group("Animation", layers, {"scale": (factor * 100, factor * 100)})]
            wide, high = wide * factor, high * factor
        title = one_line(str(data.get("nm") or name))[:120].strip() or name
        return LottieDrawing(
            title,
            max(1, round(wide)),
            max(1, round(high)),
            fps,
            length,
            layers,
            list(self.pictures.values()),
            self.remarks.told(),
        )

    def _figure(self, given: Any, default: float, low: float, high: float) -> float:
        if isinstance(given, bool) or not isinstance(given, int | float) or not math.isfinite(given):
            return default
        return float(min(max(given, low), high))

    def _count(self) -> None:
        self.layers += 1
        if self.layers > MOST_LAYERS_IN_SCENE - 20:
            raise BadFile(f"This animation would become more than {MOST_LAYERS_IN_SCENE - 20:,} layers.")

    def _group(self, name: str, layers: Sequence[Layer], more: dict[str, Any]) -> Layer:
        self._count()
        return {"kind": "group", "id": new_id("layer"), "name": name, "layers": list(layers), **more}

    def _composition(self, given: Sequence[Any], clock: Clock, inside: tuple[str, ...], depth: int) -> list[Layer]:
        """Layers of a composition, the lowest first; what has a parent lies in a group that moves as that does."""
        known = {one.get("ind"): one for one in given if isinstance(one, dict) and isinstance(one.get("ind"), int)}
        made: list[tuple[tuple[int, ...], Layer]] = []
        for k in reversed(range(len(given))):
            one = given[k]
            self.asked += 1
            if self.asked > _MOST_WAYS:
                raise BadFile(
                    f"This animation has more than {_MOST_WAYS:,} layers, those used again counted each time."
                )
            if not isinstance(one, dict):
                self.remarks("Layers that are none")
                continue
            parents = self._parents(one, known)
            layer = self._layer(one, clock, inside, depth + len(parents))
            if layer is not None:
                made.append((parents, layer))
                source = known.get(one.get("tp")) or (given[k - 1] if k else None)
                if one.get("tt") and isinstance(source, dict):
                    self._matte(made, one, source, known, clock, inside, depth)
        return self._within(made, known, clock, 0)

    def _matte(
        self,
        made: list[tuple[tuple[int, ...], Layer]],
        one: dict[str, Any],
        source: dict[str, Any],
        known: dict[Any, Any],
        clock: Clock,
        inside: tuple[str, ...],
        depth: int,
    ) -> None:
        """Let the last layer made show only where another one is, which comes in hidden."""
        way = one["tt"]
        if isinstance(way, bool) or way not in (1, 2, 3, 4):
            self.remarks("Mattes of a kind that is not known here")
            return
        parents = self._parents(source, known)
        matte = self._layer({**source, "td": 0, "bm": 0}, clock, inside, depth + len(parents))
        if matte is None:
            return
        matte["hidden"] = True
        made[-1][1]["matte"] = {
            "layer": matte["id"],
            "by": "alpha" if way < 3 else "luminance",
            "backwards": way in (2, 4),
        }
        made.append((parents, matte))

    def _parents(self, one: dict[str, Any], known: dict[Any, Any]) -> tuple[int, ...]:
        """Those whose motion a layer shares, from the outermost in."""
        chain: list[int] = []
        here = one.get("parent")
        while here is not None:
            if not isinstance(here, int) or here not in known or here in chain or len(chain) >= DEEPEST:
                self.remarks("Parents that are not there, or go round in a circle")
                break
            chain.append(here)
            here = known[here].get("parent")
        return tuple(reversed(chain))

    def _within(
        self, made: list[tuple[tuple[int, ...], Layer]], known: dict[Any, Any], clock: Clock, level: int
    ) -> list[Layer]:
        """Layers put into the groups of their parents; neighbours with the same one share it."""
        found: list[Layer] = []
        k = 0
        while k < len(made):
            parents, layer = made[k]
            if len(parents) <= level:
                found.append(layer)
                k += 1
                continue
            run = k
            while run < len(made) and made[run][0][: level + 1] == parents[: level + 1]:
                run += 1
            parent = known[parents[level]]
            place = self.values.place(parent.get("ks"), clock, opacity=False, heads=parent.get("ao") == 1)
            found.append(
                self._group(self._name(parent, "Parent"), self._within(made[k:run], known, clock, level + 1), place)
            )
            k = run
        return found

    def _name(self, one: dict[str, Any], default: str) -> str:
        return one_line(str(one.get("nm") or ""))[:120].strip() or default

    def _layer(self, one: dict[str, Any], clock: Clock, inside: tuple[str, ...], depth: int) -> Layer | None:
        kind = one.get("ty")
        if depth > DEEPEST:
            self.remarks("What lies too deep in compositions")
            return None
        for name, said in _NOT_READ.items():
            if one.get(name):
                self.remarks(said)
        if one.get("ddd"):
            self.remarks("Layers in space: they lie flat")
        if one.get("td") or kind == 3:
            # A matte is drawn by what it cuts; nothing to see draws nothing.
            return None
        place = self.values.place(one.get("ks"), clock, heads=one.get("ao") == 1)
        layers = self._inner(one, kind, clock, inside, depth)
        if not layers:
            return None
        made = self._group(self._name(one, "Layer"), layers, place)
        if one.get("hd"):
            made["hidden"] = True
        blend = one.get("bm")
        if blend and not isinstance(blend, bool) and isinstance(blend, int) and (0 < blend < 12 or blend == 16):
            made["blend"] = BLENDS[min(blend, len(BLENDS) - 1)]
        elif blend:
            self.remarks("Blend modes that are not known here: layers simply cover one another")
        return self._seen(made, one, clock)

    def _seen(self, made: Layer, one: dict[str, Any], clock: Clock) -> Layer:
        """The layer, or a group around it that shows it for as long as it is there."""
        start = clock.at(self._figure(one.get("ip"), -1e6, -1e6, 1e7))
        end = clock.at(self._figure(one.get("op"), 1e7, -1e6, 1e7))
        if start <= 1e-6 and end >= self.length - 1e-6:
            return made
        shown = [(max(start, 0.0), 100.0)]
        if start > 1e-6:
            shown.insert(0, (0.0, 0.0))
        if end < self.length:
            shown.append((max(end, start + 1e-3), 0.0))
        if start >= self.length or end <= 0:
            shown = []
        keys = [{"frame": frame, "value": value, "ease": "hold"} for frame, value in shown]
        return self._group(made["name"], [made], {"opacity": {"rest": 0.0, "keys": keys}})

    def _inner(self, one: dict[str, Any], kind: Any, clock: Clock, inside: tuple[str, ...], depth: int) -> list[Layer]:
        """What a layer draws."""
        if kind == 4:
            return self.shapes.layers(one.get("shapes"), clock, DEEPEST - depth)
        if kind == 1:
            wide, high = (self._figure(one.get(side), 100, 0, 1e5) for side in ("sw", "sh"))
            self._count()
            fill = {"kind": "solid", "colour": hex_of(str(one.get("sc", "#000000")))}
            return [
                {
                    "kind": "rectangle",
                    "id": new_id("layer"),
                    "name": "Surface",
                    "size": (wide, high),
                    "position": (wide / 2, high / 2),
                    "fill": fill,
                }
            ]
        if kind == 2:
            return self._picture(self.assets.get(str(one.get("refId"))))
        if kind == 0:
            name = str(one.get("refId"))
            asset = self.assets.get(name)
            if name in inside:
                self.remarks("Compositions that hold themselves")
                return []
            if asset is None or not isinstance(asset.get("layers"), list):
                self.remarks("Compositions that are not there")
                return []
            stretch = self._figure(one.get("sr"), 1, 0.001, 1000)
            own = clock.inside(self._figure(one.get("st"), 0, -1e6, 1e6), stretch)
            return self._composition(asset["layers"], own, (*inside, name), depth + 1)
        told = {"5": "Texts: save them as shapes", "6": "Sound"}
        self.remarks(told.get(str(kind), f"Layers of the kind {str(kind)[:20]}"))
        return []

    def _picture(self, asset: dict[str, Any] | None) -> list[Layer]:
        address = str((asset or {}).get("p") or "")
        if not address.startswith("data:image/"):
            self.remarks("Pictures in other files: they are not fetched")
            return []
        try:
            picture = take_in(base64.b64decode(address.partition(",")[2]), "Picture")
        except (BadPicture, binascii.Error, ValueError):
            self.remarks("Pictures that cannot be read")
            return []
        self.pictures[picture.id] = picture
        wide, high = (
            self._figure((asset or {}).get(side), size, 1, 1e5)
            for side, size in (("w", picture.width), ("h", picture.height))
        )
        self._count()
        return [
            {
                "kind": "picture",
                "id": new_id("layer"),
                "name": "Picture",
                "picture": picture.id,
                "width": picture.width,
                "height": picture.height,
                "position": (wide / 2, high / 2),
                "scale": (wide / picture.width * 100, high / picture.height * 100),
            }
        ]
