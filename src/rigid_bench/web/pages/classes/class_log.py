"""Who saw and changed what in a class."""

from fastapi import Request
from fastapi.responses import Response

from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.log import log_of_class
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import DbSession, OwnClass
from rigid_bench.web.words.log_words import doer, words

router = page_router()


@router.get("/classes/{class_id}/log", name="class_log")
def class_log(request: Request, classroom: OwnClass, session: DbSession) -> Response:
    """Show the log, newest first."""
    entries = [(entry.made_at, doer(entry), words(entry)) for entry in log_of_class(session, classroom.id)]
    settings = ClassSettings.model_validate(classroom.settings)
    return page(request, "class_log.html", classroom=classroom, entries=entries, settings=settings)
