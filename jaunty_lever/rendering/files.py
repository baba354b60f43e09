"""An export as a file on the disk: only a whole one gets its name, and nothing is left beside it."""

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from jaunty_lever.exporters import Exporter, Options, Source

from .batch import make
from .cluster import Cluster
from .runners import Here, Pool, Runner


def runner_for(processes: int = 1, cluster: str = "") -> Runner:
    """Who draws: a Dask cluster by its scheduler's address (or `local`), so many processes, or this one."""
    return Cluster(cluster) if cluster else Pool(processes) if processes > 1 else Here()


def write_file(
    exporter: Exporter, source: Source, options: Options, target: Path, runner: Runner,
    done: Callable[[int], None] = lambda count: None,
) -> dict[str, Any]:  # fmt: skip
    """Write what has been planned; a report of what came of it. Raises OSError, NoCluster, TooOften,
    and Refused for a batch of which no row can be made."""
    part = target.with_name(target.name + ".part")
    try:
        with part.open("wb") as file, tempfile.TemporaryDirectory(prefix=".drawing-", dir=target.parent) as folder:
            report = make(exporter, source, options, file, Path(folder), runner, lambda count, sight: done(count))
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
        runner.close()
    return report | {"bytes": target.stat().st_size}
