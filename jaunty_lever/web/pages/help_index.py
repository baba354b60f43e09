"""All of the help on one page, to be searched: everything that can be looked up, and where its paragraph stands."""

from dataclasses import dataclass
from functools import cache
from typing import Any

from fastapi import APIRouter
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.arrangement import ARRANGEMENTS
from jaunty_lever.core.document.base_layer import BaseLayer
from jaunty_lever.core.document.fills import ConicFill, LinearFill, RadialFill, SolidFill, Stop
from jaunty_lever.core.document.gauge import GAUGES
from jaunty_lever.core.document.layers import LAYER_KINDS
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.formula.library import FUNCTIONS, VALUES
from jaunty_lever.core.motion import MODIFIERS

from ..templating import page
from .addresses import slug
from .finding import ACTIONS, words_of
from .help import purposes, setting_row
from .help_arrays import DRAWING, pages_of_parts
from .keys import KEYS

router = APIRouter(prefix="/help")


@dataclass(frozen=True)
class Entry:
    """Something that can be looked up: where its paragraph is, what it is called and does, and what it is looked for
    by."""

    title: str
    does: str
    address: str
    words: str
    minor: bool = False
    """Shown only when it is looked for: of settings there are hundreds."""


IN_BRIEF = (
    (
        "stage",
        "Layers and the stage",
        "Add a layer with + at the left; it lies in the middle of the stage. Drag it there, turn it by the ring "
        "around it, and move its "
        "pivot by the small square beside it. Several are chosen with Ctrl and Shift: what is then changed is "
        "changed on each.",
        "shape text picture group canvas move rotate pivot anchor select multiple",
    ),
    (
        "numbers",
        "Numbers",
        "Type one with a unit or a sum: 360/31, 3*1turn, 12f, 50%. +20, *1.1 and /2 act on what is there. Drag "
        "the name of a value "
        "sideways, or step it with ↑ ↓: Shift finer, Alt coarser. = begins a formula.",
        "field value units arithmetic drag scrub relative expression",
    ),
    (
        "chain",
        "The chain",
        "Click the name of a value: below, its motion is built from left to right. First what it rests at or "
        "its keys, then modifiers, "
        "each of which takes what the one before it gives; at the right what comes out. The ring switches one "
        "off, to compare.",
        "motion animate modifier effect stack behaviour order",
    ),
    (
        "keys-of-values",
        "Keys",
        "Key here (k) keeps what a value is at the playhead. With keys, a number that is typed lands on the "
        "playhead. Their eases are "
        "changed by a right click, many keys at once on Curves.",
        "keyframe ease curve timing interpolation tween",
    ),
    (
        "active-windows",
        "When a modifier acts",
        "Drag on the strip under its curve: it acts there and nowhere else. Ends and fades are dragged, or "
        "chosen by ← → and moved with Alt; "
        "Enter types them, as frames or as 0.5s. Without any it acts all the time.",
        "active window in out range time fade begin end duration limit in time only here",
    ),
    (
        "kept-curves",
        "Curves over a passage",
        "What copies play while a sweep passes, sparks while they live, and how wide a line is along its "
        "length. The arrows beside one "
        "open it larger: points typed in percent, and curves kept by name to be put on other values.",
        "profile life width easing shape taper graph preset reuse envelope",
    ),
    (
        "levers",
        "Levers",
        "A lever is a control of your own that drives any number of values: open ⋯ behind a number and choose "
        "Make it a lever, or link "
        "other values to one. Levers have keys and chains too, and are what is handed over.",
        "slider control dial rig master parameter drive",
    ),
    (
        "links",
        "Links",
        "Press l on a value and point at what drives it: a lever, a value in the list, a layer on the stage. "
        "Then it follows as it is, by "
        "ratio, from one range to another, or as wheels in mesh. A sea-green field is driven; its menu cuts it free.",
        "parent follow connect tie gear ratio expression pick whip",
    ),
    (
        "arrays-in-brief",
        "Many copies",
        "Choose layers and press c: they become the pattern of an array. Its copies stand in a row, a ring, a "
        "grid …; each has values of "
        "its own, later than the one before it, pushed by zones, or told apart by gauges.",
        "array clone duplicate repeat stagger grid cascade",
    ),
    (
        "snapshots",
        "Snapshots",
        "They keep what all levers stand at under a name, to come back to it, or to go from one to another by a blend.",
        "pose state preset blend compare",
    ),
    (
        "handing-over",
        "Handing over and taking out",
        "Handover is a page with the stage and the levers, and nothing of the rig, for somebody else. Export "
        "draws films, pictures and "
        "files of numbers.",
        "export render video share client",
    ),
)


@cache
def entries() -> dict[str, list[Entry]]:
    """What can be looked up, by where it belongs."""
    found: dict[str, list[Entry]] = {"In brief": [Entry(t, does, f"#{n}", f"{t} {w}") for n, t, does, w in IN_BRIEF]}
    kinds = {slug(kind): cls for kind, cls in MODIFIERS.items()}
    for purpose, some in purposes().items():
        made = found.setdefault(purpose[:1].upper() + purpose[1:], [])
        for address, title, does in some:
            made.append(Entry(title, does, f"/help/modifiers/{address}", words_of(kinds[address])))
            made += _settings(title, kinds[address], f"/help/modifiers/{address}")
    parts: dict[str, Any] = {f"arrangements/{k}": cls for k, cls in ARRANGEMENTS.items()}
    parts |= {f"gauges/{k}": cls for k, cls in GAUGES.items()} | {f"drawing/{k}": cls for k, cls in DRAWING.items()}
    for about, pages in pages_of_parts().items():
        made = found.setdefault(about, [])
        for address, title, does in pages:
            made.append(Entry(title, does, f"/help/{address}", f"{title} {does}"))
            if address in parts and hasattr(parts[address], "model_fields"):
                made += _settings(title, parts[address], f"/help/{address}")
    found["Values of layers"] = [
        Entry(row["label"], row["help"] or kinds_said, f"#{anchor}", f"{row['label']} {row['help']} {kinds_said}", True)
        for anchor, row, kinds_said in layer_values()
    ]
    found["Formulas"] = [
        Entry(
            "The formula language",
            "Arithmetic, steps, values of other layers.",
            "/help/formula",
            "formula expression code",
        ),
        *(
            Entry(f.signature, f.help, f"/help/formula#fn-{f.name}", f"{f.name} {f.help} formula", True)
            for f in FUNCTIONS.values()
        ),
        *(Entry(name, told, "/help/formula#values", f"{name} {told} formula", True) for name, told in VALUES.items()),
    ]
    found["What can be done"] = [Entry(words, "", "#keys", f"{words} {more}", True) for _, words, more in ACTIONS]
    return found


def _settings(title: str, cls: Any, address: str) -> list[Entry]:
    return [
        Entry(f"{title}: {spec.label}", spec.help, f"{address}#{name}", f"{title} {spec.label} {spec.help}", True)
        for name, spec in specs_of(cls).items()
        if not (issubclass(cls, BaseLayer) and name in specs_of(BaseLayer))
    ]


_FILLS: tuple[tuple[Any, str], ...] = (
    (SolidFill, "a fill"),
    (LinearFill, "a linear fill"),
    (RadialFill, "a radial fill"),
    (ConicFill, "a conic fill"),
    (Stop, "a colour of a fill or a ramp"),
)


@cache
def layer_values() -> list[tuple[str, dict[str, Any], str]]:
    """(anchor, its line, which layers have it) of each value that layers have themselves."""
    known: dict[tuple[str, str, str], list[str]] = {}
    rows: dict[tuple[str, str, str], tuple[str, dict[str, Any]]] = {}
    owners = [(cls, cls.title) for cls in LAYER_KINDS.values()]
    for cls, title in [*owners, *_FILLS]:
        for name, spec in specs_of(cls).items():
            key = name, spec.label, spec.help
            known.setdefault(key, []).append(title)
            rows.setdefault(key, (name, setting_row(name, spec)))
    made, taken = [], set[str]()
    for key, (name, row) in rows.items():
        anchor = f"value-{name}"
        if anchor in taken:
            continue
        taken.add(anchor)
        having = known[key]
        said = "every layer" if len(having) == len(LAYER_KINDS) else ", ".join(having).lower()
        made.append((anchor, row, f"Of {said}."))
    return made


@router.get("")
def everything() -> HTMLResponse:
    """All of the help, to be searched."""
    return page(
        "help/index.html",
        sections=entries(),
        anchors={anchor for anchor, *_ in IN_BRIEF},
        all_keys=KEYS,
        values=layer_values(),
        purposes=purposes(),
        pages=pages_of_parts(),
        here="help",
    )
