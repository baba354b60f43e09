"""What follows a column of a table: a value of a scene, or which picture a picture layer shows."""

from dataclasses import dataclass

from .layers import PictureLayer
from .nodes import ParameterNode
from .scene import Project
from .tables import Follower

PICTURE = "picture"


@dataclass(frozen=True)
class Followed:
    """What stands at the place that a follower names: a value, or a picture layer."""

    node: ParameterNode | None = None
    layer: PictureLayer | None = None

    @property
    def title(self) -> str:
        """Where it stands, in words."""
        return self.node.title if self.node is not None else f"{self.layer.name}: picture" if self.layer else ""


def followed(project: Project, follower: Follower) -> Followed | None:
    """What follows; None when it is gone."""
    scene = project.scene(follower.scene)
    if scene is None:
        return None
    node = scene.index.parameters.get(follower.parameter)
    if node is not None:
        return Followed(node=node)
    owner, _, field = follower.parameter.rpartition(".")
    layer = scene.index.layers.get(owner)
    return Followed(layer=layer) if field == PICTURE and isinstance(layer, PictureLayer) else None
