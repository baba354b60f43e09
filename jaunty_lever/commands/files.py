"""Files of other formats, and what is known of them."""

import json
from pathlib import Path
from typing import Annotated

import typer

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.exporters import EXPORTERS
from jaunty_lever.formats import project_file, recipe_file
from jaunty_lever.importers import importer_for
from jaunty_lever.importers.into import kinds
from jaunty_lever.scripting import OpenProject

from .reading import read
from .saying import fail

app = typer.Typer()


@app.command()
def formats() -> None:
    """List the formats that go out and come in."""
    typer.echo("Out:")
    for out in EXPORTERS.values():
        typer.echo(f"  {out.name:<12} {out.title} (*{out.ending}): {out.does}")
    typer.echo("In:")
    for into in kinds():
        typer.echo(f"  {into.name:<12} {into.title} ({', '.join('*' + one for one in into.endings)}): {into.does}")


@app.command(name="import")
def bring_in(
    file: Annotated[Path, typer.Argument(help="A file of a format that comes in, such as an SVG.", show_default=False)],
    out: Annotated[Path, typer.Option(help="The project file to write.", show_default=False)],
    into: Annotated[
        Path | None, typer.Option(help="A project file that it comes into, instead of a new one.", show_default=False)
    ] = None,
    scene: Annotated[str, typer.Option(help="The scene it comes into; the first, if not told.")] = "",
) -> None:
    """Make a project file of a file of another format, or bring it into a project; what is not read is named."""
    if into is not None:
        _bring_into(OpenProject(read(into)), scene, file, out)
        return
    try:
        content = file.read_bytes()
        brought = importer_for(content).read(content, file.name)
        if not isinstance(brought.thing, Project):
            raise fail(f"{file}: a recipe is no project. A Bench's Recipes puts it to use.")
        OpenProject(brought.thing).save(out)
    except OSError as error:
        raise fail(f"{error.filename or file}: {error.strerror}.") from None
    except project_file.BadFile as error:
        raise fail(*(f"{file}: {problem}" for problem in error.problems)) from None
    for said in brought.remarks:
        typer.echo(f"Not read: {said}.", err=True)
    typer.echo(f"Wrote {out}")


def _bring_into(project: OpenProject, scene: str, file: Path, out: Path) -> None:
    try:
        here = project[scene] if scene else next(iter(project), None)
        if here is None:
            raise fail("This project has no scene to bring anything into.")
        remarks = here.bring_in(file)
        project.save(out)
    except KeyError as error:
        raise fail(str(error.args[0])) from None
    except OSError as error:
        raise fail(f"{error.filename or file}: {error.strerror}.") from None
    except (project_file.BadFile, Refused) as error:
        raise fail(f"{file}: {error}") from None
    for said in remarks:
        typer.echo(said, err=True)
    typer.echo(f"Wrote {out}")


@app.command()
def schema(
    recipe: Annotated[bool, typer.Option("--recipe", help="Of the recipe file instead.")] = False,
) -> None:
    """Print the JSON Schema of the project file."""
    typer.echo(json.dumps(recipe_file.schema() if recipe else project_file.schema(), indent=2))
