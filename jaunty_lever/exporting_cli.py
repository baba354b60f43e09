"""The command line's `export`, with a command for each format, made from what the formats tell of themselves."""

import inspect
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

import typer

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.exporters import EXPORTERS, Exporter, Source, read_options

Read = Callable[[Path], Project]
Find = Callable[[Project, str], Scene]

_FILE = Annotated[Path, typer.Argument(help="A project file.", show_default=False)]
_SCENE = Annotated[str, typer.Option("--scene", help="The scene's name.", show_default=False)]
_OUT = Annotated[Path, typer.Option(help="The file to write, or a folder for it.", show_default=False)]


def add_exports(group: typer.Typer, read: Read, find: Find, fail: Callable[[str], Exception]) -> None:
    """Give a group of commands one for each format that can be made from a project file."""
    for exporter in EXPORTERS.values():
        if exporter.takes != "recipe":
            command = _command(exporter, read, find, fail)
            group.command(exporter.name, help=f"{exporter.title}. {exporter.does}")(command)


def _command(exporter: Exporter, read: Read, find: Find, fail: Callable[[str], Exception]) -> Callable[..., None]:
    def run(file: Path, out: Path, scene: str = "", **given: Any) -> None:
        project = read(file)
        source = Source(project, find(project, scene) if exporter.takes == "scene" else None)
        try:
            options = read_options(exporter, {name: value for name, value in given.items() if value is not None})
            plan = exporter.plan(source, options)
        except Refused as error:
            raise fail(str(error)) from None
        try:
            target = out / plan.file_name.replace("/", "_") if out.is_dir() else out
            _written(exporter, source, options, plan.steps, target)
        except OSError as error:
            raise fail(f"{out}: {error.strerror}.") from None
        typer.echo(f"Wrote {target}")

    parameters = [_parameter("file", _FILE)]
    if exporter.takes == "scene":
        parameters.append(_parameter("scene", _SCENE))
    parameters.append(_parameter("out", _OUT))
    for name, field in exporter.options.model_fields.items():
        option = typer.Option(f"--{name.replace('_', '-')}", help=field.description)
        if field.annotation is bool:
            option = typer.Option(help=field.description)
        default = field.get_default(call_default_factory=True)
        parameters.append(_parameter(name, Annotated[field.annotation, option], default))
    run.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    run.__annotations__ = {one.name: one.annotation for one in parameters}
    return run


def _parameter(name: str, annotation: Any, default: Any = inspect.Parameter.empty) -> inspect.Parameter:
    return inspect.Parameter(name, inspect.Parameter.KEYWORD_ONLY, default=default, annotation=annotation)


def _written(exporter: Exporter, source: Source, options: Any, steps: int, target: Path) -> None:
    """Only a whole file gets its name."""
    from rich.progress import Progress

    part = target.with_name(target.name + ".part")
    try:
        with part.open("wb") as file, Progress(transient=True, disable=steps < 2) as shown:
            task = shown.add_task(exporter.title, total=steps)
            exporter.write(source, options, file, lambda count: shown.update(task, completed=count))
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
