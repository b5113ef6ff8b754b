"""Whether the program is well: for the start command and for whoever watches it."""

from fastapi import APIRouter
from sqlalchemy import text

from rigid_bench.web.access import DbSession

router = APIRouter()


@router.get("/healthz")
def healthz(session: DbSession) -> dict[str, str]:
    """Answer once the database answers."""
    session.execute(text("select 1"))
    return {"status": "ok"}
