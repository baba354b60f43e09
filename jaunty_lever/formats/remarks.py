"""What of a file is not read: a sentence for each kind, with how often it stood there."""

from collections import Counter


class Remarks:
    """Called with a sentence; tells each once, those that stood there most often first."""

    def __init__(self) -> None:
        self._said: Counter[str] = Counter()

    def __call__(self, said: str) -> None:
        self._said[said] += 1

    def told(self) -> list[str]:
        """All of them."""
        return [f"{said} ({count})" if count > 1 else said for said, count in self._said.most_common()]

    def first(self) -> str:
        """What a sentence that nothing came in ends with: the foremost of them, if there is one."""
        told = self.told()
        return f" Not read: {told[0]}." if told else ""
