"""What all commands say when they cannot do what they are asked."""

import typer


def fail(*messages: str) -> typer.Exit:
    """Says each of the messages; to be raised."""
    for message in messages:
        typer.echo(message, err=True)
    return typer.Exit(1)
