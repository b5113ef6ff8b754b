"""Whether the program is well: for the start command and for whoever watches it."""

import shutil
import tempfile

from fastapi import Request, Response
from fastapi.responses import JSONResponse
from sqlalchemy import text

from rigid_bench.store.queries import work_queries
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import DbSession

router = page_router()


@router.get("/healthz")
def healthz(session: DbSession) -> dict[str, str]:
    """Answer once the database answers: the web server is well, whatever the workers do."""
    session.execute(text("select 1"))
    return {"status": "ok"}


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
        "free_disk_bytes": shutil.disk_usage(tempfile.gettempdir()).free,
    }
    return JSONResponse(facts, status_code=200 if is_ready else 503)
