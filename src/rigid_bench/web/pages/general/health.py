"""Whether the program is well: for the start command and for whoever watches it."""

import secrets
import shutil
import tempfile

from fastapi import Request, Response
from fastapi.responses import JSONResponse
from prometheus_client import CONTENT_TYPE_LATEST
from sqlalchemy import text

from rigid_bench.core.values.errors import NotAllowed
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.confinement import available
from rigid_bench.store.queries import work_queries
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import DbSession, client_address

router = page_router()


@router.get("/healthz")
def healthz(session: DbSession) -> dict[str, str]:
    """Answer once the database answers: the web server is well, whatever the workers do."""
    session.execute(text("select 1"))
    return {"status": "ok"}


@router.get("/metrics")
def metrics(request: Request) -> Response:
    """Give what is counted, in the format of Prometheus: to this machine, or to whoever has the token."""
    wanted, given = request.app.state.settings.metrics_token, request.headers.get("authorization", "")
    is_told = secrets.compare_digest(given.encode(), f"Bearer {wanted}".encode()) if wanted else _is_here(request)
    if not is_told:
        raise NotAllowed(
            _("metrics"),
            _("they are for whoever watches the program"),
            _("Send the token of RIGID_BENCH_METRICS_TOKEN"),
        )
    return Response(request.app.state.metrics.written(), media_type=CONTENT_TYPE_LATEST)


def _is_here(request: Request) -> bool:
    return client_address(request) in ("127.0.0.1", "::1")


@router.get("/readyz")
def readyz(request: Request, session: DbSession) -> Response:
    """Say whether builds are measured: by live workers, and in time; with status 503 where they are not."""
    settings = request.app.state.settings
    oldest_s = work_queries.oldest_waiting_s(session)
    workers = work_queries.live_workers(session, silent_s=4 * settings.heartbeat_seconds)
    is_ready = workers > 0 and oldest_s <= settings.late_seconds
    facts = {
        "status": "ok" if is_ready else "measuring is late" if workers else "no worker lives",
        "oldest_job_seconds": round(oldest_s, 1),
        "live_workers": workers,
        # of this machine's workers; those of others say it in their logs
        "confinement": available().facts,
        "free_disk_bytes": shutil.disk_usage(tempfile.gettempdir()).free,
    }
    return JSONResponse(facts, status_code=200 if is_ready else 503)
