"""Every request has an id: it stands in the answer, and in all that is logged while it is answered."""

import re
import secrets
import time
from collections.abc import Awaitable, Callable

import structlog
from fastapi import Request
from fastapi.responses import Response

from rigid_bench.web.observability.metrics import Metrics

log = structlog.get_logger()
HEADER = "X-Request-ID"
#: An id that a reverse proxy may give.
_ID = re.compile(r"[A-Za-z0-9._-]{8,64}")


async def note_request(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
    """Give a request its id, count it and log it: by its route's pattern, nobody's name and no number in it."""
    given = request.headers.get(HEADER, "")
    request_id = given if _ID.fullmatch(given) else secrets.token_hex(8)
    structlog.contextvars.clear_contextvars()
    structlog.contextvars.bind_contextvars(request=request_id)
    began = time.perf_counter()
    status = 500
    try:
        response = await call_next(request)
        status = response.status_code
        response.headers[HEADER] = request_id
        return response
    finally:
        seconds = time.perf_counter() - began
        route = getattr(request.scope.get("route"), "path", "/static" if "endpoint" in request.scope else "(none)")
        metrics: Metrics = request.app.state.metrics
        metrics.note(method=request.method, route=route, status=status, seconds=seconds)
        if request.app.state.settings.log_format == "json":
            log.info("request", method=request.method, route=route, status=status, ms=round(1000 * seconds, 1))
