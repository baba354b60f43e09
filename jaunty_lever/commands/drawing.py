"""Frames, drawn; and what is noticed about them."""

from pathlib import Path
from typing import Annotated

import typer
from rich.progress import track

from jaunty_lever.core.checks.run import run
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, images, png
from jaunty_lever.drawing.light import light

from .reading import File, Frames, SceneName, frames_of, read, scene_named
from .saying import fail

app = typer.Typer()


@app.command()
def render(
    file: File,
    scene: SceneName,
    out: Annotated[Path, typer.Option(help="The folder for the frames.", show_default=False)],
    frames: Frames = None,
    scale: Annotated[float, typer.Option(min=0.05, max=4, help="1 is the scene's own size.")] = 1.0,
    background: Annotated[bool, typer.Option(help="Draw the scene's background.")] = False,
) -> None:
    """Draw PNG frames into a folder."""
    project = read(file)
    found = scene_named(project, scene)
    first, last = (round(edge) for edge in frames_of(frames, found))
    try:
        out.mkdir(parents=True, exist_ok=True)
        look = Look(not background, scale, project.footage)
        drawn = enumerate(images(found, first, last, look), first)
        for number, image in track(drawn, f"Drawing {found.name}", last - first):
            (out / f"frame-{number:05d}.png").write_bytes(png(image))
    except OSError as error:
        raise fail(f"{out}: {error.strerror}.") from None


@app.command()
def check(file: File) -> None:
    """Read a project file and list what is wrong or odd in it, scene by scene; exits with 1 when something is."""
    project = read(file)
    wrong = 0
    for scene in project.scenes:
        for found in run(Sampler(scene), lambda sampler: light(sampler, project.footage)):
            wrong += 1
            labels = [mend.label[:1].lower() + mend.label[1:] for mend in found.mends]
            mends = f" Mend: {'; or '.join(labels)}." if labels else ""
            typer.echo(f"{scene.name}: {found.text}{mends}", err=True)
    if wrong:
        raise typer.Exit(1)
    layers = sum(len(scene.index.layers) for scene in project.scenes)
    typer.echo(f"{project.name} is sound: {len(project.scenes)} scene(s), {layers} layers.")
