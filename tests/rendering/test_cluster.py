"""A cluster of separate processes, each in a folder of its own: the same film, also when a worker is lost on the
way."""

import io
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from typing import ClassVar
from unittest.mock import patch

from jaunty_lever.exporters import EXPORTERS, Drawn, Source, read_options
from jaunty_lever.rendering import Cluster, Here, NoCluster, render
from tests.exporters.taken_out import quay

ROOT = str(Path(__file__).parent.parent.parent)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


class Clusters(unittest.TestCase):
    folder: ClassVar[Path]
    address: ClassVar[str]
    workers: ClassVar[list[subprocess.Popen[bytes]]]

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        port = free_port()
        cls.address = f"tcp://127.0.0.1:{port}"
        cls.begin("scheduler", "--port", str(port), "--host", "127.0.0.1", "--no-dashboard")
        cls.workers = [
            cls.begin("worker", cls.address, "--nthreads", "1", "--no-nanny", "--no-dashboard", "--name", f"w{k}")
            for k in range(2)
        ]
        cluster = Cluster(cls.address)
        deadline = time.monotonic() + 60
        while True:
            try:
                cluster.connect().wait_for_workers(2, timeout=30)
                break
            except NoCluster:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.2)
        cluster.close()

    @classmethod
    def begin(cls, *command: str) -> subprocess.Popen[bytes]:
        """A scheduler or a worker, in a folder of its own."""
        home = cls.folder / f"{command[0]}-{len(list(cls.folder.iterdir()))}"
        home.mkdir()
        environment = {**os.environ, "PYTHONPATH": ROOT, "DASK_LOGGING__DISTRIBUTED": "critical"}
        process = subprocess.Popen(
            [sys.executable, "-m", "dask", *command],
            cwd=home,
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )

        def end() -> None:
            process.kill()
            process.wait()

        cls.addClassCleanup(end)
        return process

    def setUp(self) -> None:
        whole = quay(length=480, width=160, height=96)
        self.source = Source(whole, whole.scenes[0])
        exporter = EXPORTERS["mp4"]
        assert isinstance(exporter, Drawn)
        self.exporter, self.options = exporter, read_options(exporter, {})

    def test_a_lost_worker_changes_nothing(self) -> None:
        here, far = io.BytesIO(), io.BytesIO()
        with tempfile.TemporaryDirectory() as folder:
            render(self.exporter, self.source, self.options, here, Path(folder), Here())
        lost: list[int] = []

        def lose(count: int, sight: bytes) -> None:
            if count >= 120 and not lost:
                lost.append(count)
                os.kill(self.workers[0].pid, signal.SIGKILL)

        cluster = Cluster(self.address)
        self.addCleanup(cluster.close)
        with tempfile.TemporaryDirectory() as folder:
            report = render(self.exporter, self.source, self.options, far, Path(folder), cluster, lose)
        self.assertTrue(lost and lost[0] < 480)
        self.assertEqual((report.frames, far.getvalue()), (480, here.getvalue()))

    def test_what_cannot_be_used_is_told_with_what_to_do(self) -> None:
        nobody = Cluster(f"tcp://127.0.0.1:{free_port()}")
        with patch("jaunty_lever.rendering.cluster._PATIENCE", 1), self.assertRaises(NoCluster) as caught:
            nobody.connect()
        self.assertIn("dask scheduler", str(caught.exception))
        other = Cluster(self.address)
        with patch("jaunty_lever.rendering.cluster.__version__", "9.9.9"), self.assertRaises(NoCluster) as caught:
            other.connect()
        self.assertIn("9.9.9: all must be of one version", str(caught.exception))
