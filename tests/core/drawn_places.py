"""Where a frame draws things, by the matrices of its display list alone."""

from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

Floats = np.ndarray[Any, Any]


def frame_of(scene: Scene, frame: float) -> DisplayList:
    """The display list of one frame."""
    return display_list(Sampler(scene), SampleTimes(np.array([frame / scene.fps])))


def _matrices(node: DisplayNode, name: str = "matrix") -> Floats:
    """(copies or 1, 3, 3)."""
    if name == "matrix":
        parts = node.channels["matrix"].rows[0].astype(float).reshape(-1, 6)
    else:
        turned, moved = (node.channels[one].rows[0].astype(float) for one in ("turned", "moved"))
        parts = np.hstack(np.broadcast_arrays(turned.reshape(-1, 4), np.zeros((moved.size // 2, 4))))[:, :4]
        parts = np.hstack([parts, np.broadcast_to(moved.reshape(-1, 2), (len(parts), 2))])
    made = np.zeros((len(parts), 3, 3))
    made[:, 0, 0], made[:, 1, 0], made[:, 0, 1], made[:, 1, 1] = parts[:, :4].T
    made[:, :2, 2], made[:, 2, 2] = parts[:, 4:], 1
    return made


def places_drawn(listed: DisplayList, layer: str, point: tuple[float, float] = (0, 0)) -> Floats:
    """Where a point of a layer is drawn, once for each copy of all arrays around it, (copies, 2) px on the stage."""

    def within(nodes: tuple[DisplayNode, ...], around: Floats, numbers: Floats) -> Floats | None:
        for node in nodes:
            own = _matrices(node)
            here = around @ (own[numbers] if len(own) > 1 else own)
            if node.id == layer:
                return np.asarray((here @ [*point, 1.0])[:, :2])
            if not node.nodes:
                continue
            if node.kind != "array":
                found = within(node.nodes, here, numbers)
            else:
                each, copies = _matrices(node, "copies"), int(node.fixed["copies"])
                counts = np.broadcast_to(node.channels["count"].rows[0].astype(int).ravel(), (len(numbers),))
                inner = [n * copies + k for n, c in zip(numbers, counts, strict=True) for k in range(c)]
                outer = np.repeat(np.arange(len(numbers)), counts)
                own = each if len(each) > 1 else np.broadcast_to(each, (max(inner, default=0) + 1, 3, 3))
                # Copies that are alike in each outer one stand in the list once.
                rows = np.array(inner, dtype=int) % max(len(own), 1)
                found = within(node.nodes, here[outer] @ own[rows], np.array(inner, dtype=int))
            if found is not None:
                return found
        return None

    made = within(listed.nodes, np.eye(3)[None], np.zeros(1, dtype=int))
    assert made is not None, layer
    return made
