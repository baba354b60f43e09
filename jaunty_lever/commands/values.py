"""Values, printed."""

import sys
from typing import Annotated

import typer

from jaunty_lever.core.document.refused import Refused
from jaunty_lever.formats.values import csv_of

from .reading import File, Frames, SceneName, frames_of, read, scene_named
from .saying import fail

app = typer.Typer()


@app.command()
def sample(
    file: File,
    scene: SceneName,
    parameter: Annotated[
        list[str],
        typer.Option("--parameter", help="Such as “Lantern 3/opacity”; may be given again.", show_default=False),
    ],
    frames: Frames = None,
    step: Annotated[float, typer.Option(help="Frames from one line to the next.", min=0.001)] = 1.0,
    copies: Annotated[
        str, typer.Option(help="Of values in arrays, a column a copy: all, 3, or 0:10 for 0 to 9.")
    ] = "all",
) -> None:
    """Print parameters by frame, as CSV."""
    found = scene_named(read(file, look_through=False), scene)
    try:
        columns = [(place.id, component) for place, component in map(found.index.by_name, parameter)]
    except LookupError as error:
        raise fail(str(error.args[0])) from None
    first, last = frames_of(frames, found)
    try:
        for line in csv_of(found, columns, first, last, step, copies):
            sys.stdout.write(line)
    except Refused as refused:
        raise fail(refused.message) from None
