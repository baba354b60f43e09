"""Edits that last: worked out beside the server, how far they are told, and what came of them."""

import logging
import threading
from typing import Any
from uuid import uuid4

from jaunty_lever.core.document.difference import difference
from jaunty_lever.core.document.progress import Stopped
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Edit, Refused
from jaunty_lever.storage.bodies import Unreadable
from jaunty_lever.storage.store import NotKept, NotThere, State

from .bringing import Coming
from .site import Site
from .templating import BROKEN, said_of

log = logging.getLogger(__name__)


def told(state: State, label: str, before: State | None = None) -> dict[str, Any]:
    """What a browser needs to know after a change; with the state before it, which layers have been `made`: the
    outermost of them."""
    made = {} if before is None else {"made": new_layers(before.project, state.project)}
    return made | {
        "revision": state.revision,
        "change": state.change,
        "label": label,
        "undo": state.undo,
        "redo": state.redo,
    }


def new_layers(before: Project, after: Project) -> list[str]:
    """The layers, by id, of scenes that were there before, which are new and lie in none that is new."""
    made: list[str] = []
    for scene in after.scenes:
        old = before.scene(scene.id)
        if old is None or old is scene or difference(old, scene) is not None:
            continue
        known, index = old.index.layers, scene.index
        fresh = {layer for layer in index.layers if layer not in known}
        made += [layer for layer in index.layers if layer in fresh and index.parents[layer] not in fresh]
    return made


def edit(site: Site, project: str, step: Edit, coming: Coming) -> tuple[State, str]:
    """Make an edit that lasts, and wait for it; the new state and the edit's label. Raises what `Store.edit` raises,
    and Stopped."""

    def elsewhere(before: State, step: Edit) -> Any:
        return site.aside.work_out(project, before.revision, before.project, step, coming.told)

    return site.store.edit(project, step, elsewhere)


def begin(site: Site, project: str, step: Edit, by: str) -> dict[str, Any]:
    """Begin an edit that lasts; under which name it is asked for."""
    name = uuid4().hex
    coming = site.bringing.begin(name)
    coming.what = step.doing(site.store.state(project).project)

    def work() -> None:
        try:
            state, label = edit(site, project, step, coming)
        except Stopped:
            coming.came = {"stopped": True}
        except (Refused, NotKept, NotThere, Unreadable) as error:
            coming.came = said_of(error)
        except Exception:
            log.exception("an edit that lasts broke")
            coming.came = {"message": BROKEN}
        else:
            coming.came = told(state, label)
            site.announce(project, state, label, by)

    threading.Thread(target=work, name="lasting", daemon=True).start()
    return {"working": name, "label": coming.what}
