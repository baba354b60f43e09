"""Edits of orders: what copies are counted along, from, or by."""

from typing import Any, Literal

from pydantic import Field

from ..document.arrangement import MOST_POINTS, Order
from ..document.gauge import Gauge
from ..document.keys import Finite
from ..document.layers import ArrayLayer
from ..document.parameter import Parameter
from ..document.scene import Scene
from .base import Refused, SceneEdit, layer_of, with_node
from .new_gauge import array_of


class ChangeOrder(SceneEdit):
    """What the copies of an array, or those of a gauge with an order of its own, are counted along, from or by."""

    kind: Literal["change order"] = "change order"
    array: str
    gauge: str | None = Field(default=None, description="The gauge whose own order it is; none: that of the array.")
    outline: str | None = Field(default=None, description="The layer along whose line; empty: the path data.")
    data: str | None = Field(default=None, max_length=100_000, description="SVG path data in the array.")
    by: str | None = Field(default=None, description="The gauge by which copies are sorted; empty: by none.")
    points: tuple[tuple[Finite, Finite], ...] | None = Field(
        default=None, max_length=MOST_POINTS, description="Points besides that which is keyed, in percent."
    )

    def apply_to(self, scene: Scene) -> Scene:
        layer = array_of(scene, self.array)
        if self.gauge is None:
            return with_node(scene, layer.id, layer.changed(order=self._changed(layer.order)))
        gauges: list[Any] = list(layer.gauges)
        k = next((k for k, one in enumerate(gauges) if one.id == self.gauge), -1)
        own = getattr(gauges[k], "order", None) if k >= 0 else None
        if own is None:
            raise Refused("This gauge has no order of its own.", self.array)
        gauges[k] = gauges[k].changed(order=self._changed(own))
        return with_node(scene, layer.id, layer.changed(gauges=tuple(gauges)))

    def _changed(self, order: Order) -> Order:
        updates: dict[str, Any] = {}
        if self.outline is not None:
            updates |= {"outline": self.outline or None, "measure": "line"}
        if self.data is not None:
            updates |= {"data": self.data, "measure": "line"}
        if self.by is not None:
            updates |= {"gauge": self.by or None, "measure": "gauge" if self.by else order.measure.constant_value}
        if self.points is not None:
            updates |= {"points": self.points, "measure": "points"}
        wanted = updates.pop("measure", None)
        if wanted is not None and not order.measure.moves:
            updates["measure"] = Parameter(rest=wanted)
        return order.changed(**updates)

    def label_in(self, scene: Scene) -> str:
        layer = layer_of(scene, self.array)
        gauges: tuple[Gauge, ...] = layer.gauges if isinstance(layer, ArrayLayer) else ()
        names = {one.id: one.name for one in gauges}
        said = f"{names.get(self.gauge or '', layer.name)}: counted "
        if self.by is not None:
            return said + (f"by {names[self.by]}" if self.by in names else "by no gauge")
        if self.points is not None:
            return said + f"from {len(self.points) + 1} points"
        lead = scene.index.layers.get(self.outline or "")
        return said + (f"along {lead.name}" if lead else "along path data")


def without_gauge(order: Order, gauge: str) -> Order:
    """An order that is no longer sorted by a gauge that goes: by number, where it was."""
    if order.gauge != gauge:
        return order
    by_it = not order.measure.moves and order.measure.constant_value == "gauge"
    return order.changed(gauge=None, **({"measure": Parameter(rest="number")} if by_it else {}))
