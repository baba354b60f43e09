"""Who listens to whom, as far as it depends on one layer or lever: what tells whether an edit has changed the structure
of a scene."""

from typing import Any

from ..document.arrangement import Order
from ..document.gauge import ColumnGauge, Zone
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer
from ..document.parameter import stands_out


def listening(index: SceneIndex, top: str) -> tuple[Any, ...]:
    """All of a layer or lever, or of the scene itself, that has a say in who listens to whom, and whether they fit;
    where it is what it was, no link can have come apart and no circle can have closed."""
    specs = tuple((node.id, node.spec) for node in index.parameters.of(top).values())
    chains = []
    for entry in index.modifiers.of(top).values():
        one, follower = entry.modifier, index.parameters[entry.parameter]
        pushes = one.stands and (one.bypassed, follower.parameter.bypassed, getattr(one, "zone", None))
        told = (type(one), one.id, entry.parameter, entry.position, one.references(), one.driven, pushes)
        chains.append((*told, getattr(one, "component", None)))
    layer = index.layers.get(top)
    around: tuple[Any, ...] = ()
    if isinstance(layer, ArrayLayer):
        kind = layer.arrangement
        lines = tuple(getattr(kind, name, None) for name in ("outline", "other_outline"))
        gauges = tuple(
            (
                one.id,
                type(one),
                _led_by(getattr(one, "order", None)),
                isinstance(one, ColumnGauge) and by_rank(one),
                isinstance(one, Zone) and (stands_out(one.size_depth), one.outline, one.shape.constant_value),
            )
            for one in layer.gauges
        )
        around = type(kind), lines, gauges, _led_by(layer.order)
    return specs, tuple(chains), around


def _led_by(order: Order | None) -> Any:
    """Whether there is an order, and what it listens to besides its own settings."""
    return None if order is None else (order.outline, order.gauge)


def by_rank(column: ColumnGauge) -> bool:
    """Whether the rows of a column may be told by the ranks of copies."""
    return column.by.moves or column.by.constant_value == "rank"
