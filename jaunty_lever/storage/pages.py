"""The rows in a database's pages as they are, without its directory: what can be read of one that is damaged.

A page of a table says by itself which rows it holds (SQLite, Database File Format, sections 1.5 and 2.1; the
write-ahead log: section 4). So a beginning that is lost, an end that is cut off and pages that are garbage cost no more
than what stood there.
"""

import struct
from collections import Counter
from collections.abc import Iterator
from mmap import ACCESS_READ, mmap
from pathlib import Path

Cell = None | int | float | str | bytes
Row = tuple[Cell, ...]
Place = tuple[int, int]
"""The number of a page, and where in it a row begins."""

_SIZES = (4096, 1024, 8192, 16384, 32768, 2048, 512, 65536)
"""Sizes of pages, the likeliest first."""
_LEAF = 13
_BEGIN = b"SQLite format 3\0"
_MOST = 1 << 30
"""Bytes of the longest row that is believed."""


class Pages:
    """The pages of a database in a file, those of its write-ahead log over them."""

    def __init__(self, path: Path) -> None:
        """Raises OSError."""
        with path.open("rb") as file:
            # Looked into, not read in: a database may be larger than the memory.
            self._whole: bytes | mmap = mmap(file.fileno(), 0, access=ACCESS_READ) if path.stat().st_size else b""
        log = path.with_name(path.name + "-wal")
        self._log = log.read_bytes() if log.exists() else b""
        self.size = self._size_of_page()
        self._newer = dict(_logged(self._log, self.size))
        self.missing = self._cut_off()

    def _size_of_page(self) -> int:
        told = int.from_bytes(self._whole[16:18], "big")
        told = 65536 if told == 1 else told
        if self._whole[:16] == _BEGIN and told in _SIZES:
            return told
        if len(self._log) >= 32 and int.from_bytes(self._log[8:12], "big") in _SIZES:
            return int.from_bytes(self._log[8:12], "big")
        # The beginning is lost: the size by which most pages look like pages of a table.
        looks = Counter(
            {size: sum(1 for at in range(0, len(self._whole), size) if self._is_leaf(at, size)) for size in _SIZES}
        )
        return looks.most_common(1)[0][0]

    def _is_leaf(self, at: int, size: int) -> bool:
        head = self._whole[at : at + 8]
        if len(head) < 8 or head[0] != _LEAF:
            return False
        count, begin = struct.unpack(">HH", head[3:7])
        return bool(count) and 8 + 2 * count <= (begin or 65536) <= size

    def _cut_off(self) -> int:
        """Bytes by which the file is shorter than its beginning says."""
        if self._whole[:16] != _BEGIN:
            return 0
        told = int.from_bytes(self._whole[28:32], "big") * self.size
        return max(0, told - max(len(self._whole), max(self._newer, default=0) * self.size))

    def page(self, number: int) -> bytes:
        """A page by its number, from 1 on; empty where there is none."""
        return self._newer.get(number) or self._whole[(number - 1) * self.size : number * self.size]

    def rows(self) -> Iterator[tuple[Place, Row]]:
        """The rows of all tables, in the order of their pages, and where each is."""
        last = max(-(-len(self._whole) // self.size), max(self._newer, default=0))
        for number in range(1, last + 1):
            page = self.page(number)
            start = 100 if number == 1 else 0
            if len(page) < start + 8 or page[start] != _LEAF:
                continue
            (count,) = struct.unpack(">H", page[start + 3 : start + 5])
            for k in range(min(count, self.size // 4)):
                at = int.from_bytes(page[start + 8 + 2 * k : start + 10 + 2 * k], "big")
                row = self.row((number, at))
                if row is not None:
                    yield (number, at), row

    def row(self, place: Place) -> Row | None:
        """The row at a place; None where there is none that could be one."""
        page, at = self.page(place[0]), place[1]
        try:
            length, at = _varint(page, at)
            _, at = _varint(page, at)
            if not 0 < length < _MOST:
                return None
            return _parted(self._payload(page, at, length))
        except (IndexError, ValueError, struct.error):
            return None

    def _payload(self, page: bytes, at: int, length: int) -> bytes:
        """What a cell holds, with the pages that it goes on in."""
        room = self.size
        most, least = room - 35, (room - 12) * 32 // 255 - 23
        here = length
        if length > most:
            here = least + (length - least) % (room - 4)
            here = here if here <= most else least
        made = bytearray(page[at : at + here])
        following = int.from_bytes(page[at + here : at + here + 4], "big") if here < length else 0
        seen = 0
        while len(made) < length:
            more = self.page(following) if following else b""
            if len(more) < 5 or seen > length // (room - 4) + 1:
                raise ValueError("it goes on where nothing is")
            made += more[4 : 4 + length - len(made)]
            following, seen = int.from_bytes(more[:4], "big"), seen + 1
        return bytes(made)


def _varint(data: bytes, at: int) -> tuple[int, int]:
    value = 0
    for k in range(9):
        byte = data[at + k]
        if k == 8:
            return value << 8 | byte, at + 9
        value = value << 7 | byte & 127
        if byte < 128:
            return value, at + k + 1
    raise ValueError


def _parted(payload: bytes) -> Row:
    """The cells of a row. Raises ValueError where it cannot be one."""
    head, at = _varint(payload, 0)
    kinds = []
    while at < head:
        kind, at = _varint(payload, at)
        kinds.append(kind)
    if at != head or not kinds or len(kinds) > 100:
        raise ValueError
    made: list[Cell] = []
    for kind in kinds:
        if kind in (10, 11):
            raise ValueError
        wide = (0, 1, 2, 3, 4, 6, 8, 8, 0, 0)[kind] if kind < 10 else (kind - 12) // 2
        part = payload[at : at + wide]
        if len(part) < wide:
            raise ValueError
        at += wide
        if kind == 0:
            made.append(None)
        elif kind == 7:
            made.append(struct.unpack(">d", part)[0])
        elif kind < 10:
            made.append(kind - 8 if kind >= 8 else int.from_bytes(part, "big", signed=True))
        else:
            made.append(part.decode("utf-8", "replace") if kind % 2 else part)
    return tuple(made)


def _logged(log: bytes, size: int) -> Iterator[tuple[int, bytes]]:
    """The pages in a write-ahead log, as far as they were committed, by their numbers; later ones come later."""
    if len(log) < 32 or int.from_bytes(log[:4], "big") & ~1 != 0x377F0682 or int.from_bytes(log[8:12], "big") != size:
        return
    order = ">" if log[3] & 1 else "<"
    sums = _summed(log[:24], (0, 0), order)
    if sums != struct.unpack(">II", log[24:32]):
        return
    waiting: list[tuple[int, bytes]] = []
    for at in range(32, len(log) - 24 - size + 1, 24 + size):
        head, page = log[at : at + 24], log[at + 24 : at + 24 + size]
        sums = _summed(page, _summed(head[:8], sums, order), order)
        if head[8:16] != log[16:24] or sums != struct.unpack(">II", head[16:24]):
            return
        waiting.append((int.from_bytes(head[:4], "big"), page))
        if head[4:8] != b"\0\0\0\0":
            # The end of a transaction: all up to here was kept.
            yield from waiting
            waiting.clear()


def _summed(data: bytes, sums: tuple[int, int], order: str) -> tuple[int, int]:
    one, two = sums
    words = struct.unpack(f"{order}{len(data) // 4}I", data)
    for k in range(0, len(words), 2):
        one = one + words[k] + two & 0xFFFFFFFF
        two = two + words[k + 1] + one & 0xFFFFFFFF
    return one, two
