"""The program's entry: `jaunty-lever`, or `python -m jaunty_lever`."""

from .loading import loading


def main() -> None:
    """Runs the command line."""
    with loading():
        from .cli import app
    app()


if __name__ == "__main__":
    main()
