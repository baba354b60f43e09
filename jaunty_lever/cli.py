"""The command line: serve, sample, render, check, schema. Only `serve` needs a server."""

import contextlib
import json
import os
import socket
import sys
import webbrowser
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, Annotated

import typer

from jaunty_lever import __version__
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.view.frame_span import FIRST_END, frames_in
from jaunty_lever.exporting_cli import add_exports
from jaunty_lever.formats import project_file, recipe_file
from jaunty_lever.loading import loading

if TYPE_CHECKING:
    from jaunty_lever.scripting import OpenProject

app = typer.Typer(
    help="Procedural motion that is steered, not keyed frame by frame.", no_args_is_help=True, add_completion=False
)

File = Annotated[Path, typer.Argument(help="A project file.", show_default=False)]
DATABASE = "jaunty-lever.db"
Frames = Annotated[str | None, typer.Option("--frames", help=f"{FIRST_END}; all when left out.", show_default=False)]
SceneName = Annotated[str, typer.Option("--scene", help="The scene's name.", show_default=False)]


def _fail(*messages: str) -> typer.Exit:
    for message in messages:
        typer.echo(message, err=True)
    return typer.Exit(1)


def _read(path: Path) -> Project:
    try:
        return project_file.read(path.read_bytes())
    except OSError as error:
        raise _fail(f"{path}: {error.strerror}.") from None
    except project_file.BadFile as error:
        raise _fail(*(f"{path}: {problem}" for problem in error.problems)) from None


def _scene(project: Project, name: str) -> Scene:
    for scene in project.scenes:
        if name.casefold() in (scene.name.casefold(), scene.id.casefold()):
            return scene
    names = ", ".join(scene.name for scene in project.scenes) or "none"
    raise _fail(f"There is no scene “{name}” in {project.name}. There are: {names}.")


def _range(text: str | None, scene: Scene) -> tuple[float, float]:
    """First and end (not included) of `0:120`."""
    if text is None:
        return 0, scene.length
    try:
        first, last = frames_in(text)
    except ValueError as error:
        raise _fail(str(error)) from None
    if not 0 <= first < last <= scene.length:
        raise _fail(f"Frames {text} are not in the scene, which has 0:{scene.length}.")
    return first, last


def _work_in(folder: Path) -> None:
    """Let what is written for a while lie in a folder of its own, which is empty at each start: nobody else clears it away."""
    import shutil
    import tempfile

    shutil.rmtree(folder, ignore_errors=True)
    # On a full disk it lies where such things lie otherwise.
    with contextlib.suppress(OSError):
        folder.mkdir()
        tempfile.tempdir = os.environ["TMPDIR"] = str(folder)


@app.command()
def serve(
    demo: Annotated[
        bool, typer.Option("--demo", help="Put the sample project on the Shelf when it is not there.")
    ] = False,
    host: Annotated[str, typer.Option(help="The address to listen on.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="The port to listen on.")] = 8765,
    data: Annotated[Path, typer.Option(help="The folder that keeps the projects.")] = Path("data"),
    open_page: Annotated[bool, typer.Option("--open", help="Open the page in a browser.")] = False,
    processes: Annotated[
        int, typer.Option(help="How many processes draw exports; 0 draws in the server itself.", min=0, max=64)
    ] = os.cpu_count() or 1,
    allow_host: Annotated[
        list[str] | None,
        typer.Option(
            help="A name under which it is reached, besides its address; may be given again.", show_default=False
        ),
    ] = None,
    cluster: Annotated[
        str,
        typer.Option(
            help="Draw exports on a Dask cluster: its scheduler's address (tcp://…), or local.", show_default=False
        ),
    ] = "",
    new_token: Annotated[
        bool,
        typer.Option("--new-token", help="Make a new token for other machines; the old one is worth nothing then."),
    ] = False,
) -> None:
    """Serve the application."""
    with loading():
        import uvicorn

        from jaunty_lever.demo import FIRST_SCENE, ID, demo_project
        from jaunty_lever.storage.opening import CannotOpen
        from jaunty_lever.storage.store import NotKept, Store
        from jaunty_lever.web.app import create_app
        from jaunty_lever.web.bounds import Patient
        from jaunty_lever.web.guard import NoToken, beyond, own_hosts, token_in

    with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise _fail(
                f"Cannot listen on {host}:{port}: {error.strerror}. Choose another with --port (PORT= for make run)."
            ) from None
    try:
        store = Store(data / DATABASE)
    except CannotOpen as error:
        raise _fail(str(error)) from None
    try:
        if demo and not store.has(ID):
            store.create(demo_project(), "Sample project")
    except NotKept as error:
        store.close()
        raise _fail(f"The sample project cannot be kept in {data}. {error}") from None
    _work_in(data / "working")
    # Who is not at this machine has to know something that only its people can tell.
    try:
        token = token_in(data, new_token) if beyond(host) or new_token else ""
    except NoToken as error:
        store.close()
        raise _fail(str(error)) from None
    token = token if beyond(host) else ""
    name = allow_host[0] if allow_host else f"[{host}]" if ":" in host else host
    address = f"http://{name}:{port}/"
    store.holder.say(f", {address}")
    typer.echo(f"Jaunty Lever {__version__} keeps its projects in {data.resolve()}")
    asked = f"?token={token}" if token else ""
    typer.echo(f"The Shelf: {address}{asked}")
    if demo:
        typer.echo(f"Evening quay, playing: {address}projects/{ID}/scenes/{FIRST_SCENE}/bench{asked}")
    if open_page:
        webbrowser.open(address + asked)
    with loading():
        from jaunty_lever.rendering import Cluster, Pool

        runner = Cluster(cluster) if cluster else Pool(processes) if processes else None
        application = create_app(store, data / "exports", own_hosts(host, port, tuple(allow_host or ())), runner, token)
    config = uvicorn.Config(
        application, host=host, port=port, log_level="warning", timeout_graceful_shutdown=2, http=Patient
    )
    server = uvicorn.Server(config)
    leave = server.handle_exit

    def stop(number: int, frame: FrameType | None) -> None:
        application.state.site.listeners.close()
        leave(number, frame)

    server.handle_exit = stop  # type: ignore[method-assign, assignment]
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    store.close()


@app.command()
def rescue(
    data: Annotated[Path, typer.Argument(help="The folder that keeps the projects.")] = Path("data"),
    out: Annotated[
        Path | None, typer.Option(help="Where the projects are saved; a folder in the data folder when left out.")
    ] = None,
) -> None:
    """Save every project that can be read from a damaged folder as a file, and set the database aside.

    After that the program starts afresh, and takes the files in again on the Shelf.
    """
    from jaunty_lever.storage.opening import CannotOpen, Holder
    from jaunty_lever.storage.rescue import rescue as saved

    path = data / DATABASE
    if not path.is_file():
        raise _fail(f"There is no database {path}.")
    try:
        holder = Holder(path)
    except CannotOpen as error:
        raise _fail(str(error)) from None
    try:
        found = saved(path, out or data / "rescued")
    except OSError as error:
        raise _fail(f"{error.filename or data}: {error.strerror}.") from None
    finally:
        holder.release()
    for file in found.files:
        typer.echo(f"Saved {file}")
    for lost in found.lost:
        typer.echo(f"Lost: {lost}", err=True)
    typer.echo(f"{len(found.files)} saved, {len(found.lost)} lost. The database now lies at {found.aside}.")
    if found.lost:
        raise typer.Exit(1)


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
    found = _scene(_read(file), scene)
    try:
        columns = [(place.id, component) for place, component in map(found.index.by_name, parameter)]
    except LookupError as error:
        raise _fail(str(error.args[0])) from None
    first, last = _range(frames, found)
    from jaunty_lever.exporters.csv_values import write

    try:
        for line in write(found, columns, first, last, step, copies):
            sys.stdout.write(line)
    except Refused as refused:
        raise _fail(refused.message) from None


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
    from rich.progress import track

    from jaunty_lever.drawing.frames import Look, images, png

    project = _read(file)
    found = _scene(project, scene)
    first, last = (round(edge) for edge in _range(frames, found))
    try:
        out.mkdir(parents=True, exist_ok=True)
        look = Look(not background, scale, project.footage)
        drawn = enumerate(images(found, first, last, look), first)
        for number, image in track(drawn, f"Drawing {found.name}", last - first):
            (out / f"frame-{number:05d}.png").write_bytes(png(image))
    except OSError as error:
        raise _fail(f"{out}: {error.strerror}.") from None


exports = typer.Typer(help="Take something out as a file of a format.", no_args_is_help=True)
add_exports(exports, _read, _scene, _fail)
app.add_typer(exports, name="export")
batches = typer.Typer(help="Make a file of every row of a table, all of them in a zip.", no_args_is_help=True)
add_exports(batches, _read, _scene, _fail, batch=True)
app.add_typer(batches, name="batch")


@app.command()
def formats() -> None:
    """List the formats that go out and come in."""
    from jaunty_lever.exporters import EXPORTERS
    from jaunty_lever.importers.into import kinds

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
    from jaunty_lever.importers import importer_for
    from jaunty_lever.scripting import OpenProject

    if into is not None:
        _bring_into(OpenProject(_read(into)), scene, file, out)
        return
    try:
        content = file.read_bytes()
        brought = importer_for(content).read(content, file.name)
        if not isinstance(brought.thing, Project):
            raise _fail(f"{file}: a recipe is no project. A Bench's Recipes puts it to use.")
        OpenProject(brought.thing).save(out)
    except OSError as error:
        raise _fail(f"{error.filename or file}: {error.strerror}.") from None
    except project_file.BadFile as error:
        raise _fail(*(f"{file}: {problem}" for problem in error.problems)) from None
    for said in brought.remarks:
        typer.echo(f"Not read: {said}.", err=True)
    typer.echo(f"Wrote {out}")


def _bring_into(project: "OpenProject", scene: str, file: Path, out: Path) -> None:
    try:
        here = project[scene] if scene else next(iter(project), None)
        if here is None:
            raise _fail("This project has no scene to bring anything into.")
        remarks = here.bring_in(file)
        project.save(out)
    except KeyError as error:
        raise _fail(str(error.args[0])) from None
    except OSError as error:
        raise _fail(f"{error.filename or file}: {error.strerror}.") from None
    except (project_file.BadFile, Refused) as error:
        raise _fail(f"{file}: {error}") from None
    for said in remarks:
        typer.echo(said, err=True)
    typer.echo(f"Wrote {out}")


@app.command()
def check(file: File) -> None:
    """Read a project file and list what is wrong or odd in it, scene by scene; exits with 1 when something is."""
    from jaunty_lever.core.checks.run import run
    from jaunty_lever.drawing.light import light

    project = _read(file)
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


@app.command()
def schema(
    recipe: Annotated[bool, typer.Option("--recipe", help="Of the recipe file instead.")] = False,
) -> None:
    """Print the JSON Schema of the project file."""
    typer.echo(json.dumps(recipe_file.schema() if recipe else project_file.schema(), indent=2))


@app.command()
def version() -> None:
    """Print the version."""
    typer.echo(__version__)
