"""The command line. Each command is loaded when it is asked for: the program has much that most of them do without."""

import importlib
from typing import Any

import typer
from typer.core import TyperGroup

from jaunty_lever import __version__

from .loading import loading

_WHERE = {
    "serve": "serving",
    "rescue": "serving",
    "sample": "values",
    "render": "drawing",
    "export": "exporting",
    "batch": "exporting",
    "formats": "files",
    "import": "files",
    "check": "drawing",
    "schema": "files",
}
"""In which module of `commands` each of them stands."""


class _Commands(TyperGroup):
    """The commands by name, whether they are loaded or not."""

    def list_commands(self, ctx: Any) -> list[str]:
        return [*_WHERE, *super().list_commands(ctx)]

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        if cmd_name not in _WHERE:
            return super().get_command(ctx, cmd_name)
        with loading():
            module = importlib.import_module(f"jaunty_lever.commands.{_WHERE[cmd_name]}")
        return typer.main.get_group(module.app).get_command(ctx, cmd_name)


app = typer.Typer(
    cls=_Commands,
    help="Procedural motion that is steered, not keyed frame by frame.",
    no_args_is_help=True,
    add_completion=False,
)


@app.callback()
def _program() -> None:
    """Procedural motion that is steered, not keyed frame by frame."""


@app.command()
def version() -> None:
    """Print the version."""
    typer.echo(__version__)
