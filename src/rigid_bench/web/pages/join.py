"""Students join a class by its code: as somebody new, or as who they are already."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.core.errors import FormRejected
from rigid_bench.store import class_queries
from rigid_bench.web.access import CheckedForm, DbSession, MaybePerson
from rigid_bench.web.pages.sign_in import let_in
from rigid_bench.web.people import add_person
from rigid_bench.web.render import page

router = APIRouter(prefix="/join")


@router.get("")
def join(request: Request, user: MaybePerson, code: str = "") -> Response:
    """Show the form."""
    return page(request, "join.html", error=None, code=code[:20], name="", login="")


@router.post("", name="join_class", dependencies=[CheckedForm])
def join_class(
    request: Request,
    user: MaybePerson,
    session: DbSession,
    code: Annotated[str, Form(max_length=40)] = "",
    name: Annotated[str, Form(max_length=200)] = "",
    login: Annotated[str, Form(max_length=200)] = "",
    password: Annotated[str, Form(max_length=1000)] = "",
) -> Response:
    """Put the student into the class."""
    home = RedirectResponse(request.url_for("home"), status_code=303)
    try:
        classroom = class_queries.class_by_code(session, code)
        if classroom is None:
            raise FormRejected("class code", f"there is no class '{code.strip()}'", "Check the letters and digits")
        if user and user.role != "student":
            raise FormRejected("class code", "only students join with it", "Let a teacher of the class add you")
        if user:
            class_queries.join(session, classroom.id, user.id)
            return home
        newcomer = add_person(session, login=login, name=name, role="student", password=password)
    except FormRejected as exc:
        return page(request, "join.html", status=422, error=exc, code=code, name=name, login=login)
    class_queries.join(session, classroom.id, newcomer.id)
    class_queries.log(session, who=newcomer.name, action="joined", subject=classroom.name, class_id=classroom.id)
    return let_in(request, session, newcomer, home)
