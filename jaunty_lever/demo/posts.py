"""Mooring posts: a basin full of posts, from a strict grid to a scatter, seen by a camera that goes round them by
hand."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

SKY, SEA, LAND, SHORE, WOOD, CAP, BUOY = "#f0dcc0", "#4f8f92", "#a7ab86", "#8a7a5c", "#8a5a3c", "#e8dcc2", "#c8452f"
COLUMNS, ROWS = 20, 10


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="mooring-posts", name="Mooring posts", width=1280, height=720, fps=30, length=300, background=SKY
    ).apply(project)
    made = Maker(project, "mooring-posts")
    _levers(made)
    _basin(made)
    _posts(made)
    _buoys(made)
    _seen(made)
    _snapshots(made)
    return made.project


def _levers(made: Maker) -> None:
    made.lever("post-strewn", "Strewn", "percentage", 0, 100, 0, "Posts", "How far posts stand from the strict grid.")
    made.lever("post-growth", "Growth", "number", 0, 600, 60, "Posts", "How much taller the tallest are, in pixels.")
    made.lever("post-zoom", "Zoom", "number", 80, 900, 320, "Posts", "How wide the hills of their heights are.")
    made.lever("post-scroll", "Scroll", "number", -600, 600, 0, "Posts", "Which part of the noise they take.")
    made.lever("post-lean", "Lean", "angle", 0, 30, 0, "Posts", "How far they lean at most.")
    made.lever("post-round", "Round", "angle", -180, 180, 0, "Camera", "Turns the camera about the basin.")
    made.lever("post-up", "Up", "angle", 0, 80, 16, "Camera", "How far from above it looks.")
    made.lever("post-hand", "Hand", "percentage", 0, 100, 60, "Camera", "How much it is held by hand.")


def _basin(made: Maker) -> None:
    fill = {
        "kind": "linear",
        "start": (0, -360),
        "end": (0, 120),
        "stops": [
            {"id": "post-high", "offset": 0, "colour": "#b9cfcb"},
            {"id": "post-low", "offset": 100, "colour": SKY},
        ],
    }
    made.layer("rectangle", "post-sky", "Sky", (640, 360), size=(1280, 720), fill=fill)
    made.do("change layer", layer="post-sky", stays=True)
    for name, label, size, colour, depth in (
        ("land", "Land", (16000, 9000), LAND, 0.0),
        ("shore", "Shore", (1760, 1320), SHORE, 0.0),
        ("basin", "Water", (1620, 1180), SEA, 0.0),
    ):
        made.layer("rectangle", name, label, (640, 470), size=size, corner=90, fill=colour)
        made.do("set value", parameter=f"{name}.tilt", value=(90, 0))
        made.do("set value", parameter=f"{name}.depth", value=depth)


def _posts(made: Maker) -> None:
    made.layer("block", "post", "Post", (0, 0), width=24, thickness=24, height=70, colour=WOOD, stands="on its base")
    made.layer("block", "post-cap", "Cap", (0, 0), width=32, thickness=32, height=9, colour=CAP, stands="on its base")
    made.do("repeat layers", layers=["post", "post-cap"], id="posts", count=COLUMNS * ROWS)
    made.do("change layer", layer="posts", name="Posts")
    made.do("set value", parameter="posts.position", value=(640, 470))
    made.do("set arrangement", array="posts", arrangement="ground")
    for name, value in (("columns", COLUMNS), ("rows", ROWS), ("gap", (74, 100))):
        made.do("set value", parameter=f"posts.arrangement.{name}", value=value)
    made.do("add gauge", array="posts", gauge="noise", id="post-hills", name="Hills", fields={"seed": 4})
    made.do("set value", parameter="post-hills.octaves", value=3)
    made.do("write formula", parameter="post-hills.zoom", text="($Zoom, $Zoom)", id="post-zoomed")
    made.do("write formula", parameter="post-hills.scroll", text="($Scroll, 0)", id="post-scrolled")
    made.do("write formula", parameter="post.height", text="46 + $Growth * Posts.Hills ^ 2", id="post-grown")
    made.do(
        "write formula", parameter="post-cap.position", text="(0, -46 - $Growth * Posts.Hills ^ 2)", id="post-capped"
    )
    strewn = "(150 * $Strewn * (random(i, 3) - 0.5), 0)"
    made.do("write formula", parameter="posts.copy_position", text=strewn, id="post-aside")
    made.do(
        "write formula", parameter="posts.copy_depth", text="190 * $Strewn * (random(i, 4) - 0.5)", id="post-behind"
    )
    lean = "($Lean * (2 * random(i, 5) - 1), 90 * $Strewn * random(i, 6))"
    made.do("write formula", parameter="posts.copy_tilt", text=lean, id="post-leans")
    made.do("write formula", parameter="posts.copy_rotation", text="$Lean * (2 * random(i, 7) - 1)", id="post-askew")


def _buoys(made: Maker) -> None:
    """Three buoys ride between the posts and the quay."""
    for k, (x, depth, radius) in enumerate(((120.0, 560.0, 34.0), (700.0, 585.0, 42.0), (1150.0, 555.0, 30.0))):
        buoy = made.layer("ball", f"post-buoy-{k}", f"Buoy {k + 1}", (x, 462), radius=radius, colour=BUOY)
        made.do("set value", parameter=f"{buoy}.depth", value=depth)
        made.modifier(f"{buoy}.position", "wave", f"post-bobs-{k}", frequency=0.3, amplitude=(0.0, 7.0), phase=90.0 * k)


def _seen(made: Maker) -> None:
    made.layer("light", "post-sun", "Morning sun", (-700, -900))
    made.do("set value", parameter="post-sun.depth", value=900)
    made.do("set value", parameter="post-sun.colour", value="#fff0d2")
    made.do("set value", parameter="post-sun.strength", value=125)
    made.do("set value", parameter="post-sun.shade", value=58)
    made.layer("camera", "post-camera", "Camera", (640, 430))
    for name, value in (("depth", 1500), ("aim", (640, 430)), ("perspective", 1050)):
        made.do("set value", parameter=f"post-camera.{name}", value=value)
    made.do("write formula", parameter="post-camera.around", text="($Round, $Up)", id="post-goes-round")
    for parameter, id, seed, amplitude in (
        ("post-camera.position", "post-hand-moves", 4, (16.0, 12.0)),
        ("post-camera.rotation", "post-hand-rolls", 9, 0.7),
    ):
        made.wiggle(parameter, id, seed, frequency=0.8, amplitude=amplitude, repeat=10.0)
        made.follow(f"{id}.strength", "post-hand", f"{id}-much")
    made.keys("post-round.value", (0, -28, "ease-in-out"), (150, 34, "ease-in-out"), (299, -28, "linear"))


def _snapshots(made: Maker) -> None:
    """From strict over worn to scattered, and a lever that leads from one to the next."""
    settings = (
        ("Strict", {"post-strewn": 0, "post-growth": 30, "post-zoom": 900, "post-lean": 0}),
        ("Worn", {"post-strewn": 26, "post-growth": 230, "post-zoom": 420, "post-lean": 7}),
        ("Scattered", {"post-strewn": 100, "post-growth": 340, "post-zoom": 180, "post-lean": 17}),
    )
    names = []
    for name, values in settings:
        for lever, value in values.items():
            made.do("set value", parameter=f"{lever}.value", value=value)
        made.do("store snapshot", id=f"posts-{name.lower()}", name=name)
        names.append(f"posts-{name.lower()}")
    made.do("make blend", snapshots=names, id="post-years", name="Years", amount=50)
    made.keys(
        "post-years.value",
        (0, 0, "ease-in-out"),
        (120, 50, "ease-in-out"),
        (210, 100, "ease-in-out"),
        (299, 0, "linear"),
    )
