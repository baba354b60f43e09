"""An export as a file on the disk: only a whole one gets its name, and nothing is left beside it."""

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from jaunty_lever.exporters import Exporter, Options, Source

from .apart import Apart
from .batch import make
from .cluster import Cluster
from .runners import Here, Pool, Runner


def runner_for(processes: int = 1, cluster: str = "") -> Runner:
    """Who draws: a Dask cluster by its scheduler's address (or `local`), so many processes, or this one."""
    return Cluster(cluster) if cluster else Pool(processes) if processes > 1 else Here()


def write_file(
    exporter: Exporter,
    source: Source,
    options: Options,
    target: Path,
    runner: Runner,
    done: Callable[[int], None] = lambda count: None,
) -> dict[str, Any]:
    """Write what has been planned; a report of what came of it. Raises OSError, NoCluster, TooOften, Broken,
    and Refused for a batch of which no row can be made."""

    def told(count: int, sight: bytes) -> None:
        done(count)

    part, apart = target.with_name(target.name + ".part"), Apart(runner)
    try:
        with tempfile.TemporaryDirectory(prefix=".drawing-", dir=target.parent) as folder:
            if exporter.draws:
                steps = exporter.plan(source, options).steps
                report = apart.make(exporter, source, options, steps, part, Path(folder), told)
            else:
                with part.open("wb") as file:
                    report = make(exporter, source, options, file, Path(folder), Here(), told)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
        apart.close()
    return report | {"bytes": target.stat().st_size}
