"""The application, served; and what is done when its folder cannot be read."""

import contextlib
import os
import socket
import webbrowser
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, Annotated

import typer

from jaunty_lever import __version__
from jaunty_lever.loading import loading

from .saying import fail

if TYPE_CHECKING:
    from fastapi import FastAPI

    from jaunty_lever.storage.folder import Folder

app = typer.Typer()
DATABASE = "jaunty-lever.db"


def _work_in(folder: Path) -> None:
    """Let what is written for a while lie in a folder of its own, which is empty at each start: nobody else clears it
    away."""
    import shutil
    import tempfile

    shutil.rmtree(folder, ignore_errors=True)
    # On a full disk it lies where such things lie otherwise.
    with contextlib.suppress(OSError):
        folder.mkdir()
        tempfile.tempdir = os.environ["TMPDIR"] = str(folder)


def _loaded(
    folder: "Folder", data: Path, hosts: frozenset[str], cluster: str, processes: int, token: str, sample: str
) -> "FastAPI":
    """The whole application, with the sample project in the folder if that is asked for. Raises NotKept."""
    with loading():
        from jaunty_lever.rendering import Cluster, Pool
        from jaunty_lever.storage.store import NotKept, Store
        from jaunty_lever.web.app import create_app

        store = Store(folder)
        if sample:
            from jaunty_lever.demo import demo_project

            try:
                store.create(demo_project(), "Sample project")
            except NotKept as error:
                raise NotKept(f"The sample project cannot be kept in {data}. {error}") from None
        runner = Cluster(cluster) if cluster else Pool(processes) if processes else None
        return create_app(store, data / "exports", hosts, runner, token)


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

        from jaunty_lever.demo import FIRST_SCENE, ID
        from jaunty_lever.storage.folder import Folder
        from jaunty_lever.storage.opening import CannotOpen
        from jaunty_lever.web.bounds import Patient
        from jaunty_lever.web.front import Front
        from jaunty_lever.web.guard import NoToken, beyond, own_hosts, token_in

    with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise fail(
                f"Cannot listen on {host}:{port}: {error.strerror}. Choose another with --port (PORT= for make run)."
            ) from None
    try:
        folder = Folder(data / DATABASE)
    except CannotOpen as error:
        raise fail(str(error)) from None
    _work_in(data / "working")
    # Who is not at this machine has to know something that only its people can tell.
    try:
        token = token_in(data, new_token) if beyond(host) or new_token else ""
    except NoToken as error:
        folder.close()
        raise fail(str(error)) from None
    token = token if beyond(host) else ""
    name = allow_host[0] if allow_host else f"[{host}]" if ":" in host else host
    address = f"http://{name}:{port}/"
    folder.holder.say(f", {address}")
    typer.echo(f"Jaunty Lever {__version__} keeps its projects in {data.resolve()}")
    asked = f"?token={token}" if token else ""
    typer.echo(f"The Shelf: {address}{asked}")
    if demo:
        typer.echo(f"Evening quay, playing: {address}projects/{ID}/scenes/{FIRST_SCENE}/bench{asked}")
    if open_page:
        webbrowser.open(address + asked)
    hosts = own_hosts(host, port, tuple(allow_host or ()))
    sample = ID if demo and not folder.has(ID) else ""
    whole: list[FastAPI] = []

    def load() -> "FastAPI":
        whole.append(_loaded(folder, data, hosts, cluster, processes, token, sample))
        return whole[0]

    application = Front(folder, load, hosts, token, "The sample project is being put here …" if sample else "")
    config = uvicorn.Config(
        application, host=host, port=port, log_level="warning", timeout_graceful_shutdown=2, http=Patient
    )
    server = uvicorn.Server(config)
    leave = server.handle_exit

    def stop(number: int, frame: FrameType | None) -> None:
        for one in whole:
            one.state.site.listeners.close()
        leave(number, frame)

    def give_up() -> None:
        server.should_exit = True

    application.give_up = give_up

    server.handle_exit = stop  # type: ignore[method-assign, assignment]
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    if application.failed is not None:
        raise fail(str(application.failed)) from None


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
        raise fail(f"There is no database {path}.")
    try:
        holder = Holder(path)
    except CannotOpen as error:
        raise fail(str(error)) from None
    try:
        found = saved(path, out or data / "rescued")
    except OSError as error:
        raise fail(f"{error.filename or data}: {error.strerror}.") from None
    finally:
        holder.release()
    for file in found.files:
        typer.echo(f"Saved {file}")
    for lost in found.lost:
        typer.echo(f"Lost: {lost}", err=True)
    typer.echo(f"{len(found.files)} saved, {len(found.lost)} lost. The database now lies at {found.aside}.")
    if found.lost:
        raise typer.Exit(1)
