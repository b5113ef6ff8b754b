"""Sign-in cards to be printed and cut out: names with new passwords, shown to who made them, for an hour."""

from collections.abc import Sequence
from functools import partial

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.people import people
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import account_queries, class_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Classroom, User
from rigid_bench.web.figures.qr_code import qr_code
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import (
    CheckedForm,
    DbSession,
    Id,
    StudentWithWork,
    TaughtClass,
    Teacher,
    in_session,
    person,
    session_token,
    signed_in,
)
from rigid_bench.web.security.passwords import FreshPassword, NewPassword, fresh_password
from rigid_bench.web.security.sealing import SignInCard, seal, unseal

router = page_router()


@router.get("/sign-in-cards/{cards_id}", name="sign_in_cards")
def sign_in_cards(request: Request, cards_id: Id, user: Teacher, session: DbSession) -> Response:
    """Show the cards as long as they are kept."""
    kept = account_queries.sign_in_cards(session, cards_id, maker_id=user.id)
    if kept is None:
        raise NotFound(
            _("sign-in cards"), _("there are no such cards of yours"), _("Make new ones on the page of the people")
        )
    classroom = session.get(Classroom, kept.class_id) if kept.class_id else None
    cards = unseal(kept.sealed, token=session_token(request))
    sign_in = request.url_for("sign_in")
    codes = [qr_code(str(sign_in.include_query_params(login=card.login))) for card in cards or ()]
    return page(
        request, "sign_in_cards.html", cards=list(zip(cards or (), codes, strict=True)), classroom=classroom,
        address=str(request.base_url),
    )  # fmt: skip


def keep_cards(
    request: Request, session: Session, maker_id: int, cards: Sequence[SignInCard], class_id: int | None
) -> int:
    """Keep cards for their maker, and return their id."""
    sealed = seal(cards, token=session_token(request))
    return account_queries.keep_sign_in_cards(session, maker_id=maker_id, class_id=class_id, sealed=sealed)


def to_cards(request: Request, cards_id: int) -> Response:
    """Go to cards: a page that can be loaded again."""
    return RedirectResponse(request.url_for("sign_in_cards", cards_id=cards_id), status_code=303)


def reset(session: Session, account: User, fresh: FreshPassword, *, who: Person) -> SignInCard:
    """Give an account a new password, and return the card with it."""
    people.reset_password(session, account, fresh.password_hash, who_id=who.id)
    return SignInCard(name=account.name, login=account.login, password=fresh.password)


@router.post("/classes/{class_id}/students/{student_id}/password", name="reset_password", dependencies=[CheckedForm])
def reset_password(
    request: Request,
    fresh: NewPassword,
    classroom: TaughtClass,
    student: StudentWithWork,
    user: Teacher,
    session: DbSession,
) -> Response:
    """Give a student a new password: for whoever answers for the account."""
    account = account_queries.account_of(session, student.id, user)
    card = reset(session, account, fresh, who=user)
    return to_cards(request, keep_cards(request, session, user.id, [card], classroom.id))


@router.post("/classes/{class_id}/sign-in-cards", name="reset_all", dependencies=[CheckedForm])
async def reset_all(request: Request, class_id: Id) -> Response:
    """Give all of a class for whose accounts the teacher answers a new password."""
    ids = await in_session(request, partial(_managed, request, class_id))
    if not ids:
        problem = _("nobody in it has an account that you look after")
        raise FormRejected(_("sign-in cards"), problem, _("Ask an administrator of the school"))
    # one after the other: others who sign in meanwhile have their turn in between
    passwords = {user_id: await fresh_password(request) for user_id in ids}
    cards_id = await in_session(request, partial(_reset_all, request, class_id, passwords))
    return to_cards(request, cards_id)


def _managed(request: Request, class_id: int, session: Session) -> list[int]:
    user = signed_in(person(request, session))
    class_queries.class_of_teacher(session, class_id, user.id, roles=class_queries.TEACHES)
    students = class_queries.students_of_class(session, class_id)
    return [student.id for student in students if account_queries.may_manage(user, student)]


def _reset_all(request: Request, class_id: int, passwords: dict[int, FreshPassword], session: Session) -> int:
    user = signed_in(person(request, session))
    cards = [
        reset(session, student, passwords[student.id], who=user)
        for student in class_queries.students_of_class(session, class_id)
        if student.id in passwords
    ]
    return keep_cards(request, session, user.id, cards, class_id)
