"""What is said of something that cannot be done."""


class Refused(Exception):
    """An edit that cannot be made. `message` is for the artist, `at` the id of the thing it concerns."""

    def __init__(self, message: str, at: str = "") -> None:
        super().__init__(message)
        self.message, self.at = message, at


class Gone(Refused):
    """What the edit was for has since been removed."""
