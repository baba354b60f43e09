"""Finding what can be chosen and done by name, or by an everyday word for it."""

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.modifier import Modifier
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.core.motion.fits import offered
from jaunty_lever.core.view.scene_view import scene_in

from ..site import site_of
from ..templating import page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")

ACTIONS = (
    ("play", "Play and pause", "start stop preview"),
    ("add-layer", "Add a layer", "new shape text picture clip group array"),
    ("add-modifier", "Add a modifier", "motion animate effect behaviour"),
    ("add-lever", "Add a lever", "slider control dial knob new"),
    ("repeat-layers", "Repeat the chosen layers", "array copies clone duplicate grid row ring pattern"),
    ("align", "Align the chosen layers", "centre center line up distribute spread evenly stage left right top bottom"),
    ("duplicate-layers", "Duplicate the chosen layers", "copy clone another"),
    ("group-layers", "Group the chosen layers", "folder together"),
    ("key", "Key here", "keyframe set"),
    ("bypass-chain", "Switch the chain off or on", "with and without compare mute disable"),
    ("copy-chain", "Copy the chain to other values", "paste same motion to others stagger"),
    ("swing-out", "Swing out of step, from copy to copy", "pendulum drift phase polyrhythm moire interference"),
    ("ghost", "Ghost", "before and after onion other frames compare"),
    ("path", "Motion path", "trail way line"),
    ("fit", "Fit the stage", "zoom centre whole view"),
    ("scene-settings", "Scene settings", "frame rate fps size length duration motion blur shutter background"),
    ("recipes", "Recipes", "ready rigs presets library"),
    ("fonts", "Fonts", "typeface letters"),
    ("save-layers", "Save the chosen layers as a recipe", "preset keep"),
    ("faults", "Checks and perfect loop", "seamless cycle seam problems errors warnings"),
    ("link", "Link the chosen value", "follow parent drive expression tie gear"),
    ("export", "Export", "render video film picture gif download"),
    ("ten-steps", "Ten steps", "tutorial introduction tour first rig learn beginner guide walkthrough"),
    ("undo", "Undo", "back"),
    ("redo", "Redo", "again forward"),
    ("keys", "All keys", "keyboard shortcuts help"),
)
"""What can be done by name: the action, its name, and everyday words for it."""


def _places(scene: Scene) -> list[tuple[str, str, str]]:
    levers = {f"{lever.id}.value" for lever in scene.levers}
    found = [
        (node.id, node.label, "lever" if node.id in levers else "modifier" if node.within else "layer")
        for node in scene.index.parameters.values()
    ]
    return sorted(found, key=lambda entry: (entry[2] != "lever", entry[2] == "modifier"))


def words_of(modifier: type[Modifier]) -> str:
    """All that a modifier may be looked for by: its name, what it does, everyday words, its settings and their
    choices."""
    specs = specs_of(modifier).values()
    settings = (f"{spec.label} {' '.join(spec.options)}" for spec in specs)
    return " ".join((modifier.title, modifier.does, modifier.called, *settings))


@router.get("/find")
def find(project: str, scene: str, request: Request, parameter: str = "") -> HTMLResponse:
    """Everything in the scene that can be chosen by name, what can be done, and modifiers: for the chosen parameter, if
    any, those that fit it."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    node = here.index.parameters.get(parameter)
    modifiers = [
        (kind, one.title, one.does, words_of(one), one.linked)
        for kind, one in MODIFIERS.items()
        if node is None or offered(one, node.spec)
    ]
    return page("sheets/find.html", places=_places(here), actions=ACTIONS, modifiers=modifiers, node=node)
