"""Static files."""

from importlib.resources import files

from starlette.responses import Response
from starlette.routing import Mount, Router
from starlette.staticfiles import StaticFiles
from starlette.types import Scope


class Static(StaticFiles):
    """Static files under a path that holds their hash: kept by browsers for good."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        stamp, _, name = path.partition("/")
        response = await super().get_response(name if len(stamp) == 10 else path, scope)
        if len(stamp) == 10:
            response.headers["cache-control"] = "public, max-age=31536000, immutable"
        return response


MOUNT = Mount("/static", Static(directory=str(files("jaunty_lever") / "web/static")), name="static")
STATIC = Router([MOUNT])
