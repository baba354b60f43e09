"""Pictures that an SVG holds."""

import base64
import binascii
from collections.abc import Callable
from re import IGNORECASE
from re import compile as pattern
from typing import Any
from urllib.parse import unquote_to_bytes
from xml.etree.ElementTree import Element

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.pictures import Picture

from ..pictures import BadPicture, take_in
from .affine import placed, through
from .boxes import Box, fitted, moved
from .joined import Place
from .made import Layers, Made, named
from .paints import href
from .styles import length, share

_DATA = pattern(r"data:image/(?:png|jpe?g|webp|gif)(?:;[\w=-]+)*?(;base64)?,", IGNORECASE)


class Images:
    """Makes layers of them; `pictures` are those that were there, by id."""

    def __init__(self, layers: Layers, remark: Callable[[str], None]) -> None:
        self._layers, self._remark = layers, remark
        self.pictures: dict[str, Picture] = {}

    def drawn(self, node: Element, place: Place) -> tuple[list[Made], Box | None]:
        """The picture, and what of it is seen where it is larger than its place."""
        address = href(node)
        match = _DATA.match(address[:200])
        if not match:
            outside = not address.startswith("data:")
            self._remark(
                "Pictures in other files: they are not fetched" if outside else "Pictures of a kind that is not read"
            )
            return [], None
        body = address[match.end() :]
        try:
            content = base64.b64decode(unquote_to_bytes(body)) if match[1] else unquote_to_bytes(body)
            picture = take_in(content, "Picture")
        except (BadPicture, binascii.Error, ValueError):
            self._remark("Pictures that cannot be read")
            return [], None
        told, em = place.style, place.em

        def get(name: str, whole: float, default: float) -> float:
            return length(told.get(name) or node.get(name), whole, default, em)

        x, y = get("x", place.wide, 0.0), get("y", place.high, 0.0)
        wide, high = get("width", place.wide, -1.0), get("height", place.high, -1.0)
        if wide < 0:
            wide = high * picture.width / picture.height if high > 0 else float(picture.width)
        if high < 0:
            high = wide * picture.height / picture.width
        spot = placed(place.matrix)
        if spot is None or wide <= 0 or high <= 0 or share(told.get("opacity")) == 0:
            if spot is None:
                self._remark("Slanted pictures")
            return [], None
        fit = fitted((0, 0, picture.width, picture.height), wide, high, node.get("preserveAspectRatio", ""))
        self.pictures[picture.id] = picture
        middle = through(fit, picture.width / 2, picture.height / 2)
        layer: dict[str, Any] = {
            "kind": "picture",
            "id": new_id("layer"),
            "name": named(node) or "Picture",
            "picture": picture.id,
            "width": picture.width,
            "height": picture.height,
            "rotation": spot[0],
            "position": through(place.matrix, x + middle[0], y + middle[1]),
            "scale": (spot[1][0] * fit[0], spot[1][1] * fit[3]),
            "opacity": share(told.get("opacity")) * 100,
        }
        self._layers.count()
        seen = moved(moved((0.0, 0.0, picture.width, picture.height), fit), (1, 0, 0, 1, x, y))
        box = moved(seen, place.matrix)
        cut = (x, y, wide, high) if seen[2] > wide + 0.5 or seen[3] > high + 0.5 else None
        return [Made(layer, box, box)], cut
