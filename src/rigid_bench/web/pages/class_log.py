"""Who saw and changed what in a class."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rigid_bench.store import class_queries
from rigid_bench.web.access import DbSession, OwnClass
from rigid_bench.web.render import page

router = APIRouter()


@router.get("/classes/{class_id}/log", name="class_log")
def class_log(request: Request, classroom: OwnClass, session: DbSession) -> Response:
    """Show the log, newest first."""
    entries = class_queries.log_of_class(session, classroom.id)
    return page(request, "class_log.html", classroom=classroom, entries=entries)
