"""Where paragraphs of the help stand."""

from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.layers import ArrayLayer, ShapeLayer
from jaunty_lever.core.document.nodes import ParameterNode


def slug(kind: str) -> str:
    """A kind as it stands in an address."""
    return kind.replace(" ", "-")


def about(index: SceneIndex, node: ParameterNode) -> str:
    """The address of the paragraph about a value."""
    if node.modifier is not None and node.modifier in index.modifiers:
        return f"/help/modifiers/{slug(index.modifiers[node.modifier].modifier.kind)}#{node.field}"
    layer = index.layers.get(node.top)
    if layer is None:
        return "/help#levers"
    first = node.route[0] if node.route else ""
    if isinstance(layer, ArrayLayer):
        if first == "arrangement":
            return f"/help/arrangements/{layer.arrangement.kind}#{node.field}"
        if first == "gauges" and isinstance(node.route[1], int):
            # What a gauge reads is told by its page as a whole; the order that it counts by is that of arrays.
            if "order" in node.route:
                return f"/help/arrays#{node.field}"
            gauge = layer.gauges[node.route[1]]
            whole = f"/help/gauges/{gauge.kind}"
            return whole if node.field in gauge.numbers else f"{whole}#{node.field}"
        if first == "order":
            return f"/help/arrays#{node.field}"
    if first == "filters" and isinstance(node.route[1], int):
        return f"/help/drawing/filters-{layer.filters[node.route[1]].kind}#{node.field}"
    if "stops" in node.route:
        return f"/help#value-{node.field}"
    if first in ("line", "edge", "matte") and (first == "matte" or isinstance(layer, ShapeLayer)):
        return f"/help/{'edge' if first == 'edge' else f'drawing/{first}'}#{node.field}"
    return f"/help#value-{node.field}"
