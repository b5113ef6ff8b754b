"""The school's people: for its administrators. Teachers made, disabled, handed over; anybody's account found."""

from typing import Annotated

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.app.people import people
from rigid_bench.app.people.account_fields import NewPerson, check_login, check_name
from rigid_bench.store.queries import account_queries
from rigid_bench.web.pages.people.sign_in_cards import keep_cards, to_cards
from rigid_bench.web.paging import PAGE, Pages
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import Administrator, CheckedForm, DbSession, Id
from rigid_bench.web.security.passwords import NewPassword
from rigid_bench.web.security.sealing import SignInCard

router = page_router(prefix="/school")


@router.get("", name="school")
def school(
    request: Request,
    user: Administrator,
    session: DbSession,
    q: Annotated[str, Query(max_length=100)] = "",
    at: Annotated[int, Query(ge=1, le=10_000)] = 1,
) -> Response:
    """Show all who teach, and the students whom the words find."""
    students, count = account_queries.search_students(session, q.strip(), offset=(at - 1) * PAGE, limit=PAGE)
    return page(
        request,
        "school.html",
        teachers=account_queries.teachers(session),
        classes=account_queries.count_classes_of(session),
        students=students,
        pages=Pages(at=at, count=count),
        q=q,
    )


@router.post("/teachers", name="add_teacher", dependencies=[CheckedForm])
def add_teacher(
    request: Request,
    fresh: NewPassword,
    user: Administrator,
    session: DbSession,
    name: Annotated[str, Form(max_length=200)] = "",
    login: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Make a teacher, with a password to be handed out."""
    newcomer = NewPerson(login=check_login(login), name=check_name(name))
    added = people.add_teacher(session, newcomer, password_hash=fresh.password_hash)
    card = SignInCard(name=added.name, login=added.login, password=fresh.password)
    return to_cards(request, keep_cards(request, session, user.id, [card], None))


@router.post("/teachers/{user_id}/disabled", name="disable_teacher", dependencies=[CheckedForm])
def disable_teacher(
    request: Request, user_id: Id, user: Administrator, session: DbSession, back: Annotated[bool, Form()] = False
) -> Response:
    """Let a teacher sign in no more, or again."""
    teacher = account_queries.teacher_by_id(session, user_id)
    people.set_disabled(session, teacher, is_disabled=not back)
    return _back(request)


@router.post("/teachers/{user_id}/administrator", name="change_administrator", dependencies=[CheckedForm])
def change_administrator(
    request: Request, user_id: Id, user: Administrator, session: DbSession, back: Annotated[bool, Form()] = False
) -> Response:
    """Let a teacher administer the school, or no more."""
    teacher = account_queries.teacher_by_id(session, user_id)
    people.set_administrator(session, teacher, is_administrator=not back)
    return _back(request)


@router.post("/teachers/{user_id}/hand-over", name="hand_over", dependencies=[CheckedForm])
def hand_over(
    request: Request,
    user_id: Id,
    user: Administrator,
    session: DbSession,
    login: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Hand over a teacher's classes, drafts and pupils' accounts to another teacher."""
    teacher = account_queries.teacher_by_id(session, user_id)
    heir = account_queries.teacher_by_login(session, login)
    people.hand_over(session, teacher, heir, who=user)
    return _back(request)


def _back(request: Request) -> Response:
    return RedirectResponse(request.url_for("school"), status_code=303)
