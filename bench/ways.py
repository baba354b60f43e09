"""Ways out and in: films against bare drawing and encoding, processes and a cluster, drawings and tables that come
in."""

import csv
import io
import random
import resource
import tempfile
import time
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import av

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import Look, images
from jaunty_lever.exporters import EXPORTERS, Drawn, Options, Source, read_options
from jaunty_lever.formats import svg, table_file
from jaunty_lever.rendering import Cluster, Here, Pool, Runner, render

from .measure import best, line

FRAMES = 300


def everything() -> None:
    """All of it."""
    drawings()
    tables()
    films()
    vectors()


def _quay() -> Source:
    project = demo_project()
    return Source(project, project.scenes[0])


def _given(name: str, **options: Any) -> tuple[Drawn, Options]:
    exporter = EXPORTERS[name]
    assert isinstance(exporter, Drawn)
    return exporter, read_options(exporter, options)


def _took(source: Source, name: str, runner: Runner, **options: Any) -> float:
    exporter, given = _given(name, **options)
    with tempfile.TemporaryDirectory() as folder:
        begun = time.perf_counter()
        render(exporter, source, given, io.BytesIO(), Path(folder), runner)
        return time.perf_counter() - begun


def films() -> None:
    """Evening quay as MP4: by two processes against bare drawing and bare encoding; one against two, and a cluster."""
    source = _quay()
    assert source.project is not None and source.scene is not None
    begun = time.perf_counter()
    drawn = [image.tobytes() for image in images(source.scene, 0, FRAMES, Look(pictures=source.project.picture_table))]
    drawing = (time.perf_counter() - begun) / 2
    begun = time.perf_counter()
    with av.open(io.BytesIO(), "w", format="mp4") as out:
        stream = out.add_stream("libx264", rate=30, options={"crf": "18", "preset": "medium"})
        stream.width, stream.height, stream.pix_fmt = 1280, 720, "yuv420p"
        for content in drawn:
            frame = av.VideoFrame.from_bytes(content, 1280, 720, format="rgba")
            out.mux(stream.encode(frame))
        out.mux(stream.encode())
    encoding = time.perf_counter() - begun
    del drawn, content
    pool = Pool(2)
    _took(source, "mp4", pool, stop=119)
    two = _took(source, "mp4", pool)
    bound = max(drawing, encoding)
    line(
        "MP4 of Evening quay, two processes, against the longer of drawing and encoding alone",
        f"{two / bound:.2f} ×",
        f"at most 1.2 × ({two:.1f} s; drawing on two cores {drawing:.1f} s, encoding with all of them "
        f"{encoding:.1f} s)",
        two <= 1.2 * bound,
    )
    # Both take all cores: no film can be had in less than the two one after the other.
    line("  against the two one after the other, as both take all cores", f"{two / (drawing + encoding):.2f} ×", "told")
    one = _took(source, "mp4", Here())
    line("Two processes against one", f"{one / two:.2f} ×", "at least 1.8 ×", one / two >= 1.8)
    cluster = Cluster("local")
    _took(source, "mp4", cluster, stop=119)
    far = _took(source, "mp4", cluster)
    cluster.close()
    line("A cluster of two workers against one process", f"{one / far:.2f} ×", "at least 1.7 ×", one / far >= 1.7)
    _pieces(pool)
    pool.close()


def _pieces(pool: Pool) -> None:
    """What a piece costs besides its drawing."""
    plain = Scene.model_validate({"id": "s", "name": "Plain", "layers": [{"kind": "ellipse", "id": "a", "name": "A"}]})
    source = Source(Project(id="p", name="P", scenes=(plain,)), plain)
    exporter, given = _given("png-frames", size=0.05, stop=199)
    work = [(k, k + 1) for k in range(200)]

    class Singly(type(exporter)):  # type: ignore[misc]
        def pieces_of(self, source: Source, options: Any) -> list[tuple[int, int]]:
            return work

    def took(one: Drawn, runner: Runner) -> float:
        with tempfile.TemporaryDirectory() as folder:
            begun = time.perf_counter()
            render(one, source, given, io.BytesIO(), Path(folder), runner)
            return time.perf_counter() - begun

    took(exporter, pool)
    whole, singly = took(exporter, Here()), took(Singly(), Here())
    each = (singly - whole) / (200 - len(exporter.pieces_of(source, given))) * 1000
    line("A piece besides its drawing, 200 of them", f"{each:.1f} ms", "under 20 ms", each < 20)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    source = _quay()
    long = source.scene
    assert long is not None and source.project is not None
    stretched = long.changed(length=3000)
    _took(Source(source.project.changed(scenes=(stretched,)), stretched), "mp4", Here(), size=0.25)
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    line("Memory that 3,000 frames take beyond 300", f"{grown:.0f} MB", "flat: under 100 MB", grown < 100)


def vectors() -> None:
    """Vectors that move against PNG frames of the same scenes."""
    project = demo_project()
    for one in project.scenes:
        if one.id == "gull-flock":
            # Two hundred gulls: a minute by itself.
            continue
        source = Source(project, one)
        frames = _size(source, "png-frames")
        for name in ("svg", "lottie"):
            size = _size(source, name)
            line(
                f"{one.name} as {name} against its PNG frames",
                f"{size / frames:.4f}",
                f"at most 0.1 ({size / 1000:,.0f} kB)",
                size <= frames / 10,
            )


def _size(source: Source, name: str) -> int:
    exporter, target = EXPORTERS[name], io.BytesIO()
    exporter.write(source, read_options(exporter, {}), target, lambda count: None)
    return len(target.getvalue())


def _drawing(count: int) -> bytes:
    dice = random.Random(4)
    colours = [f"#{dice.randrange(1 << 24):06x}" for _ in range(40)]
    parts = ['<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1600 1000">']
    for k in range(0, count, 25):
        parts.append(f'<g id="g{k}" fill="{dice.choice(colours)}">')
        for n in range(25):
            curves = "".join("c" + " ".join(f"{dice.uniform(-20, 20):.2f}" for _ in range(6)) for _ in range(6))
            parts.append(f'<path id="p{k + n}" d="M{dice.uniform(0, 1600):.2f} {dice.uniform(0, 1000):.2f}{curves}z"/>')
        parts.append("</g>")
    return "".join([*parts, "</svg>"]).encode()


def drawings() -> None:
    """An SVG of 5,000 paths against its XML alone, and a fifth of it."""
    content = _drawing(5_000)
    parsed = best(lambda: ElementTree.fromstring(content), 5)
    taken = best(lambda: svg.read(content), 3)
    fifth = best(lambda: svg.read(_drawing(1_000)), 3)
    most = 3 * parsed + 1
    line(
        "SVG of 5,000 paths",
        f"{taken:.2f} s",
        f"at most {most:.2f} s: 3 × the XML alone ({parsed * 1000:.0f} ms) + 1 s; 1,000 paths {fifth:.2f} s",
        taken <= most,
    )


def tables() -> None:
    """A table of 100,000 rows against the standard csv module."""
    rows = "".join(f"Name {k},{k / 7:.3f},#a03c{k % 256:02x},2020-01-{k % 28 + 1:02}\n" for k in range(100_000))
    content = ("name,size,hue,day\n" + rows).encode()
    read = best(lambda: list(csv.reader(io.StringIO(content.decode(), newline=""))), 3)
    taken = best(lambda: table_file.read(content).data, 3)
    most = 2 * read + 0.5
    line(
        "A table of 100,000 rows",
        f"{taken:.2f} s",
        f"at most {most:.2f} s: 2 × the csv module ({read * 1000:.0f} ms) + 0.5 s",
        taken <= most,
    )
