"""The travelling card: a build's checks with what was required and measured, marks and a stamp."""

from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.app.builds import ask as asking
from rigid_bench.app.builds import mark as marking
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import marking_queries
from rigid_bench.store.standing import check_of
from rigid_bench.store.tables import UNCOUNTED, Build, BuildFile
from rigid_bench.web.figures.part_pictures import part_pictures
from rigid_bench.web.files import safe_file
from rigid_bench.web.pages.builds.card_view import view_card
from rigid_bench.web.print.cards import card_pdf
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, OwnBuild, SignedIn, Student, VisibleBuild

router = page_router("/builds/{build_id}")
_LONGEST = 1000


@router.get("")
def card(request: Request, build: VisibleBuild, user: SignedIn, session: DbSession) -> Response:
    """Show the card, or where the build is in the queue; what does not count yet has a page of its own."""
    if build.state in UNCOUNTED:
        return RedirectResponse(request.url_for("look", build_id=build.id), status_code=303)
    if user.is_teacher:
        marking.note_read(session, build, teacher=user)
    elif build.returns:
        marking_queries.note_seen(session, [build.id])
    return page(request, "card.html", card=view_card(session, build, user), thumbnails=part_pictures(build.version))


@router.get("/progress")
def card_progress(request: Request, build: VisibleBuild, user: SignedIn, session: DbSession) -> Response:
    """Show the live line while the build waits or is measured, then the card in its place."""
    card = view_card(session, build, user)
    return page(request, "_card.html", card=card, thumbnails=part_pictures(build.version))


@router.get("/card.pdf")
def card_as_pdf(build: VisibleBuild, user: SignedIn, session: DbSession) -> Response:
    """Give the card as PDF."""
    card = view_card(session, build, user)
    if card.report is None or card.seen == "nothing":
        raise NotFound(_("card"), _("there is no card to print yet"), _("Wait until it is returned"))
    name = slug(f"{build.version.title}-{build.student.name}")
    headers = {"Content-Disposition": f'attachment; filename="{name}.pdf"'}
    return Response(card_pdf([card]), media_type="application/pdf", headers=headers)


@router.get("/files/{file_id}", name="build_file")
def build_file(build: VisibleBuild, file_id: Id, user: SignedIn, session: DbSession) -> Response:
    """Give a file that was handed in: pictures to look at, all else to keep; nothing is run."""
    file = session.get(BuildFile, file_id)
    if file is None or file.build_id != build.id:
        raise NotFound(_("file"), _("this build has no such file"), _("Open the card again"))
    return safe_file(file.name, file.content)


@router.post("/checks/{check_id}/question", name="ask", dependencies=[CheckedForm])
def ask(
    request: Request,
    check_id: str,
    build: OwnBuild,
    user: Student,
    session: DbSession,
    text: Annotated[str, Form(max_length=_LONGEST)] = "",
) -> Response:
    """Let the student question one check with a sentence."""
    check = check_of(build, check_id)
    asking.ask_question(session, build, check, text, student=user)
    return to_check(request, build, check_id)


@router.post("/checks/{check_id}/hand", name="raise_hand", dependencies=[CheckedForm])
def raise_hand(request: Request, check_id: str, build: OwnBuild, user: Student, session: DbSession) -> Response:
    """Raise a hand on a check, in a lesson."""
    check = check_of(build, check_id)
    asking.raise_hand(session, build, check, student=user)
    return to_check(request, build, check_id)


@router.post("/hand/down", name="take_hand_down", dependencies=[CheckedForm])
def take_hand_down(request: Request, build: OwnBuild, user: Student, session: DbSession) -> Response:
    """Take the hand down again."""
    asking.lower_hand(session, build.class_id, student_id=user.id)
    return RedirectResponse(request.url_for("card", build_id=build.id), status_code=303)


def to_check(request: Request, build: Build, check_id: str, *, route: str = "card") -> Response:
    """Go back to a check on the card."""
    return RedirectResponse(f"{request.url_for(route, build_id=build.id)}#{check_id}", status_code=303)
