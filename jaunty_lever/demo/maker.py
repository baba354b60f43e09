"""A short way to say edits, for building sample scenes."""

from typing import Any

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT


class Maker:
    """Applies edits to one scene of a project, one after the other."""

    def __init__(self, project: Project, scene: str) -> None:
        self.project, self.scene = project, scene

    def do(self, kind: str, **fields: Any) -> None:
        """One edit."""
        self.project = EDIT.validate_python({"kind": kind, "scene": self.scene, **fields}).apply(self.project)

    def whole(self, kind: str, **fields: Any) -> None:
        """One edit that is not of the scene alone."""
        self.project = EDIT.validate_python({"kind": kind, **fields}).apply(self.project)

    def layer(
        self, kind: str, id: str, name: str, at: tuple[float, float], parent: str | None = None, **fields: Any
    ) -> str:
        """A layer at a place; `fill` and `stroke` may be given as colours. Its id."""
        if isinstance(fields.get("fill"), str):
            fields["fill"] = {"kind": "solid", "colour": fields["fill"]}
        self.do("add layer", layer=kind, id=id, name=name, position=at, parent=parent, fields=fields)
        return id

    def wiggle(self, parameter: str, id: str, seed: int, **settings: Any) -> str:
        """A Wiggle on a parameter; settings by name. Its id."""
        return self.modifier(parameter, "wiggle", id, seed, **settings)

    def modifier(self, parameter: str, kind: str, id: str, seed: int = 1, **settings: Any) -> str:
        """A modifier at the end of a parameter's chain; settings by name. Its id."""
        self.do("add modifier", parameter=parameter, modifier=kind, id=id, seed=seed)
        for name, value in settings.items():
            self.do("set value", parameter=f"{id}.{name}", value=value)
        return id

    def lever(
        self, id: str, name: str, kind: str, low: float, high: float, value: float, group: str, help: str
    ) -> None:
        """A lever on the board."""
        self.do("add lever", id=id, name=name, lever=kind, low=low, high=high, value=value, group=group)
        self.do("change lever", lever=id, help=help)

    def follow(self, parameter: str, lever: str, id: str, times: float = 1.0, plus: float = 0.0) -> None:
        """Let a parameter follow a lever."""
        self.do("link to", parameter=parameter, driver=f"{lever}.value", times=times, plus=plus, id=id, position=0)

    def link(self, parameter: str, driver: str, id: str, **fields: Any) -> None:
        """Let a parameter follow another, in one of the ways of linking."""
        self.do("link to", parameter=parameter, driver=driver, id=id, position=0, **fields)

    def keys(self, parameter: str, *keys: tuple[float, Any, str]) -> None:
        """Keys as (frame, value, ease)."""
        for frame, value, _ in keys:
            self.do("set value", parameter=parameter, value=value, frame=frame, key=True)
        for frame, _, ease in keys:
            self.do("set ease", parameter=parameter, frame=frame, ease=ease)
