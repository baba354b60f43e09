"""Drawing in pieces, in this process or in others, that end up as one file."""

from jaunty_lever.core.document.progress import Stopped

from .apart import Apart, Broken
from .cluster import Cluster, NoCluster
from .render import Report, render
from .runners import Here, Pool, Runner, TooOften
from .work import Piece, Work, work_of

__all__ = [
    "Apart",
    "Broken",
    "Cluster",
    "Here",
    "NoCluster",
    "Piece",
    "Pool",
    "Report",
    "Runner",
    "Stopped",
    "TooOften",
    "Work",
    "render",
    "work_of",
]
