"""The start page: a student's exercises, or a teacher's classes."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.store import queries
from rigid_bench.web.access import DbSession, SignedIn
from rigid_bench.web.pages.state import build_state
from rigid_bench.web.render import page

router = APIRouter()


@router.get("/")
def home(request: Request, user: SignedIn, session: DbSession) -> Response:
    """Show what there is to do."""
    if user.role == "student":
        tasks = [(task, build_state(task.build)) for task in queries.tasks_of_student(session, user.id)]
        return page(request, "home.html", tasks=tasks)
    classes = queries.classes_of_teacher(session, user.id)
    if len(classes) == 1:
        return RedirectResponse(request.url_for("class_table", class_id=classes[0].id), status_code=303)
    return page(request, "class_list.html", classes=classes)
