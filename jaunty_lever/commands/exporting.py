"""The command line's `export`, with a command for each format, made from what the formats tell of themselves."""

import inspect
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

import typer

from jaunty_lever.core.edits import Refused
from jaunty_lever.exporters import EXPORTERS, Drawn, Exporter, Source, read_options
from jaunty_lever.rendering import Broken, NoCluster, TooOften
from jaunty_lever.rendering.batch import BATCH, asked
from jaunty_lever.rendering.files import runner_for, write_file

from .reading import read, scene_named
from .saying import fail

_FILE = Annotated[Path, typer.Argument(help="A project file.", show_default=False)]
_SCENE = Annotated[str, typer.Option("--scene", help="The scene's name.", show_default=False)]
_PROCESSES = Annotated[int, typer.Option(help="How many processes draw.", min=1, max=64)]
_CLUSTER = Annotated[
    str,
    typer.Option(help="Draw on a Dask cluster: the address of its scheduler (tcp://…), or local.", show_default=False),
]
_EACH = Annotated[str, typer.Option(help="A table: a file for each of its rows, in a zip.", show_default=False)]
_TABLE = Annotated[str, typer.Option("--table", help="The table: a file for each of its rows.", show_default=False)]
_ROWS = Annotated[str, typer.Option(help="Which rows of the table, such as 1-12,15.", show_default=False)]
_NAMING = Annotated[str, typer.Option(help="Names of a batch's files: {row:03}, and columns by their names in braces.")]
_OUT = Annotated[Path, typer.Option(help="The file to write, or a folder for it.", show_default=False)]


def add_exports(group: typer.Typer, batch: bool = False) -> None:
    """Give a group of commands one for each format that can be made from a project file; `batch`: of each row of a
    table."""
    for exporter in EXPORTERS.values():
        if exporter.takes == "scene" or (exporter.takes == "project" and not batch):
            command = _command(exporter, batch)
            group.command(exporter.name, help=f"{exporter.title}. {exporter.does}")(command)


def _command(exporter: Exporter, batch: bool) -> Callable[..., None]:
    def run(
        file: Path,
        out: Path,
        scene: str = "",
        each: str = "",
        rows: str = "",
        naming: str = "",
        processes: int = 1,
        cluster: str = "",
        **given: Any,
    ) -> None:
        project = read(file)
        source = Source(project, scene_named(project, scene) if exporter.takes == "scene" else None)
        made: Exporter = exporter
        try:
            told = {name: value for name, value in given.items() if value is not None}
            if each:
                made, told = BATCH, asked(project, each, rows, naming, exporter.name, told)
            options = read_options(made, told)
            plan = made.plan(source, options)
        except Refused as error:
            raise fail(str(error)) from None
        try:
            target = out / plan.file_name.replace("/", "_") if out.is_dir() else out
            report = _written(made, source, options, plan.steps, target, processes, cluster)
        except OSError as error:
            raise fail(f"{out}: {error.strerror}.") from None
        except (Broken, NoCluster, TooOften, Refused) as error:
            raise fail(str(error)) from None
        for said in report.get("failed", ()):
            typer.echo(f"Not made: {said}", err=True)
        if "moments" in report:
            typer.echo(f"Motion blur: up to {report['moments']} moments a frame", err=True)
        for said in plan.left_out:
            typer.echo(f"Not carried: {said}", err=True)
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
    if exporter.takes == "scene":
        parameters += [
            _parameter("each", _TABLE) if batch else _parameter("each", _EACH, ""),
            _parameter("rows", _ROWS, ""),
            _parameter("naming", _NAMING, "{row:03}"),
        ]
    if isinstance(exporter, Drawn):
        parameters += [_parameter("processes", _PROCESSES, 1), _parameter("cluster", _CLUSTER, "")]
    run.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    run.__annotations__ = {one.name: one.annotation for one in parameters}
    return run


def _parameter(name: str, annotation: Any, default: Any = inspect.Parameter.empty) -> inspect.Parameter:
    return inspect.Parameter(name, inspect.Parameter.KEYWORD_ONLY, default=default, annotation=annotation)


def _written(
    exporter: Exporter, source: Source, options: Any, steps: int, target: Path, processes: int, cluster: str
) -> dict[str, Any]:
    from rich.progress import Progress

    with Progress(transient=True, disable=steps < 2) as shown:
        task = shown.add_task(exporter.title, total=steps)
        runner = runner_for(processes, cluster)
        return write_file(exporter, source, options, target, runner, lambda count: shown.update(task, completed=count))


app = typer.Typer()
exports = typer.Typer(help="Take something out as a file of a format.", no_args_is_help=True)
add_exports(exports)
app.add_typer(exports, name="export")
batches = typer.Typer(help="Make a file of every row of a table, all of them in a zip.", no_args_is_help=True)
add_exports(batches, batch=True)
app.add_typer(batches, name="batch")
