"""Pieces drawn by a Dask cluster: processes on this machine, or workers on others."""

import contextlib
import os
import time
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Any

from jaunty_lever.core.document.progress import Stopped
from jaunty_lever.version import __version__

from .runners import Asked, Frames, Runner, TooOften
from .work import OtherVersion, Piece, Work, make

if TYPE_CHECKING:
    from distributed import Client

LOCAL = "local"
_PATIENCE = 10
"""Seconds within which a scheduler has to answer."""
_AHEAD = 2
"""Pieces that are given out for each worker: one being drawn, and the next."""


class NoCluster(Exception):
    """The cluster cannot be used; the message says why, and what to do."""


class Cluster(Runner):
    """Draws on a cluster. What a lost worker was at is drawn by the others."""

    def __init__(self, address: str) -> None:
        """`address` of a scheduler, such as tcp://10.0.0.5:8786; or `local`: as many processes here as there are
        cores."""
        self.address = address
        self._client: Client | None = None
        self._local: Any = None

    @property
    def told(self) -> str:
        return "a cluster on this machine" if self.address == LOCAL else f"the cluster at {self.address}"

    def connect(self) -> "Client":
        """The cluster, asked for its workers' versions. Raises NoCluster."""
        import dask
        from distributed import Client, LocalCluster

        if self._client is not None:
            return self._client
        # No page of its own, and no word about it.
        # Nor what would look at every worker a hundred times a second.
        dask.config.set(
            {
                "distributed.admin.system-monitor.gil.enabled": False,
                "distributed.worker.profile.enabled": False,
                "logging.distributed": "error",
            }
        )
        try:
            if self.address == LOCAL:
                self._local = LocalCluster(
                    n_workers=os.cpu_count(), threads_per_worker=1, dashboard_address=None, silence_logs="CRITICAL"
                )
            client = Client(self._local or self.address, timeout=_PATIENCE, set_as_default=False)
        except (OSError, ValueError, TimeoutError) as error:
            self.close()
            raise NoCluster(
                f"No cluster answers at {self.address} ({type(error).__name__}). Start a scheduler with `dask "
                "scheduler` and "
                "workers with `dask worker ADDRESS`, then try again."
            ) from None
        self._client = client
        try:
            versions: dict[str, str | None] = client.run(_version)
        except Exception as error:
            self.close()
            raise NoCluster(
                f"The workers of {self.address} cannot draw: {error}. They need Jaunty Lever {__version__} installed."
            ) from None
        if not versions:
            self.close()
            raise NoCluster(
                f"The scheduler at {self.address} has no workers. Start some with `dask worker {self.address}`."
            )
        for worker, version in versions.items():
            if version != __version__:
                self.close()
                raise NoCluster(
                    f"The worker {worker} has Jaunty Lever {version}, and this is {__version__}: all must be of "
                    "one version."
                )
        return client

    def run(self, work: Work, pieces: Sequence[Frames], stop: Asked) -> Iterator[tuple[Frames, Piece]]:
        from distributed import as_completed
        from distributed.scheduler import KilledWorker

        client = self.connect()
        # What all of them need goes to each worker once.
        (everywhere,) = client.scatter([work], broadcast=True, hash=False)
        left: list[Frames] = list(reversed(pieces))
        running: dict[Any, Frames] = {}
        done = as_completed(loop=client.loop)

        def give_out() -> None:
            workers = max(1, len(client.scheduler_info()["workers"]))
            while left and len(running) < workers * _AHEAD:
                frames = left.pop()
                future = client.submit(make, everywhere, *frames, pure=False)
                running[future] = frames
                done.add(future)

        try:
            give_out()
            while running:
                if stop():
                    raise Stopped
                if not done.has_ready():
                    # Not for ever, so that a wish to stop is heard.
                    time.sleep(0.02)
                    continue
                future = next(done)
                frames = running.pop(future)
                try:
                    piece: Piece = future.result()
                except KilledWorker:
                    raise TooOften(frames) from None
                except OtherVersion as error:
                    raise NoCluster(str(error)) from None
                yield frames, piece
                del future
                give_out()
        finally:
            if running:
                client.cancel(list(running))

    def close(self) -> None:
        client, local = self._client, self._local
        self._client = self._local = None
        for one in (client, local):
            if one is not None:
                with contextlib.suppress(Exception):
                    one.close(timeout=5)


def _version() -> str:
    """Asked of each worker."""
    return __version__
