"""Styles, scripts and pictures that ship with the application, addressed by their content: browsers keep them."""

import hashlib
from functools import cache
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs

import jinja2
from fastapi.responses import Response
from fastapi.staticfiles import StaticFiles

from rigid_bench.web.addresses import address_of

STATIC = Path(__file__).parent / "static"
_DIGEST = "v"
#: A year: what is addressed by its content never changes.
_KEPT = "public, max-age=31536000, immutable"


class Assets(StaticFiles):
    """Files that may be kept where the address names their content, and are asked for again where it does not."""

    async def get_response(self, path: str, scope: Any) -> Response:
        """Answer with a file and say how long it may be kept."""
        response = await super().get_response(path, scope)
        asked = parse_qs(scope["query_string"].decode("latin-1")).get(_DIGEST, [""])[0]
        is_kept = bool(asked) and response.status_code in (200, 304) and asked == _digest(path)
        response.headers["Cache-Control"] = _KEPT if is_kept else "no-cache"
        return response


@jinja2.pass_context
def asset(context: jinja2.runtime.Context, path: str) -> str:
    """Return the address of a file in `static`, with the digest of its content."""
    return f"{address_of(context['request'], 'static', path=path)}?{_DIGEST}={_digest(path)}"


@cache
def _digest(path: str) -> str:
    return hashlib.sha256((STATIC / path).read_bytes()).hexdigest()[:16]
