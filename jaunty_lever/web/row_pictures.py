"""Small pictures of a scene as a row of a table makes it."""

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.tables import Table
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, draw, png
from jaunty_lever.exporters import Source
from jaunty_lever.rendering.batch import at_row
from jaunty_lever.storage.store import State

from .kept import Kept

_kept: Kept[tuple[str, int, str, str, int, int, int]] = Kept(300)


def row_picture(state: State, scene: Scene, table: Table, row: int, frame: int, wide: int) -> bytes:
    """A frame as PNG, `wide` pixels across, with what follows the table set to a row. Raises Refused."""

    def drawn() -> bytes:
        source = at_row(Source(state.project, scene), table, row)
        here = source.scene or scene
        listed = display_list(Sampler(here), SampleTimes.frames(here.fps, frame, frame + 1))
        pictures = source.project.footage if source.project else {}
        return png(draw(listed, 0, Look(scale=wide / here.width, pictures=pictures)))

    return _kept.get((state.project.id, state.revision, scene.id, table.id, row, frame, wide), drawn)
