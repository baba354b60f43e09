"""Small pictures as pages show them: of scenes, recipes, rows of tables, and in the help. They are drawn beside the
server, by `drawn.Drawn`; this is what is done there."""

import os
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.refused import Gone, Refused
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.drawing.footage import decode_here
from jaunty_lever.drawing.frames import Look, draw, png
from jaunty_lever.drawing.strip import draw_strip
from jaunty_lever.exporters import Source
from jaunty_lever.processes import hold_to
from jaunty_lever.rendering.batch import at_row, table_in

from .aside import MOST_MEMORY, kept
from .pages import drawing_plots
from .shelf_page import STILL_WIDTH
from .shown_recipe import FRAMES, RECIPE_STILLS, RECIPE_WIDTH, scene_of

STILLS = 24
"""How many stills tell of a scene."""
_GENTLE = 10
"""How much less pressing this is than the server's work."""

Place = tuple[str, str, int]
"""The database's path, a project in it, and its revision."""


class _Drawer:
    """Draws one after the other, and keeps the project that it has read last."""

    def __init__(self) -> None:
        self._known: tuple[Place, Project] | None = None

    def _project(self, place: Place) -> Project:
        if self._known is None or self._known[0] != place:
            path, project, revision = place
            self._known = place, kept(Path(path), project, revision)
        return self._known[1]

    def scene(self, place: Place, scene: str) -> bytes:
        """Stills side by side, from a scene's whole length."""
        project = self._project(place)
        here = scene_in(project, scene)
        table = display_list(Sampler(here), SampleTimes.frames(here.fps, 0, here.length, here.length / STILLS))
        return draw_strip(table, min(STILLS, table.frames), STILL_WIDTH, project.footage)

    def recipe(self, recipe: str) -> bytes:
        """Stills side by side, from three seconds of a recipe on layers that are made for it."""
        here = scene_of(Recipe.model_validate_json(recipe))
        table = display_list(Sampler(here), SampleTimes.frames(here.fps, 0, FRAMES, FRAMES / RECIPE_STILLS))
        return draw_strip(table, RECIPE_STILLS, RECIPE_WIDTH)

    def row(self, place: Place, scene: str, table: str, row: int, frame: int, wide: int) -> bytes:
        """A frame, `wide` pixels across, with what follows a table set to a row. Raises Refused."""
        project = self._project(place)
        whole = Source(project, scene_in(project, scene))
        source = at_row(whole, table_in(whole, table), row)
        assert source.scene is not None
        here = source.scene
        listed = display_list(Sampler(here), SampleTimes.frames(here.fps, frame, frame + 1))
        pictures = source.project.footage if source.project else {}
        return png(draw(listed, 0, Look(scale=wide / here.width, pictures=pictures)))

    def help(self, name: str) -> bytes:
        """What a page of the help shows."""
        return drawing_plots.shown(name)


def serve(line: Connection) -> None:
    """In the process: what is to be drawn, as it comes."""
    os.nice(_GENTLE)
    hold_to(MOST_MEMORY)
    decode_here()
    drawer = _Drawer()
    while True:
        what, given = line.recv()
        work: Callable[..., bytes] = getattr(drawer, what)
        said: tuple[str, Any]
        try:
            said = "drawn", work(*given)
        except Refused as error:
            said = "refused", (isinstance(error, Gone), error.message, error.at)
        except MemoryError:
            return
        except Exception:  # whatever one thing holds, others are drawn
            said = "broken", traceback.format_exc()
        line.send(said)
