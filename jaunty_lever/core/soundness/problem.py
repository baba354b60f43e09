"""What is wrong with a document, in words."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """What is wrong, in the artist's words, and the id of the thing that it concerns."""

    text: str
    at: str = ""
