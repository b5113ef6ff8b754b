"""All cards of an exercise as one PDF: drawn by a worker, while a page says how far it is."""

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.app.builds import print_cards as printing
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import exercise_queries, printout_queries
from rigid_bench.store.tables import Printout
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Id, OwnAssignment, TaughtClass, Teacher

router = page_router(prefix="/classes/{class_id}/exercises/{version_id}/cards")


@router.post("", name="print_cards", dependencies=[CheckedForm])
def print_cards(
    request: Request, classroom: TaughtClass, assignment: OwnAssignment, user: Teacher, session: DbSession
) -> Response:
    """Let a worker draw all cards, and show how far it is."""
    made = printing.print_cards(session, request.app.state.queue, assignment, maker_id=user.id)
    return RedirectResponse(_address(request, made), status_code=303)


def _address(request: Request, printout: Printout) -> str:
    ids = {"class_id": printout.class_id, "version_id": printout.version_id, "printout_id": printout.id}
    return str(request.url_for("printout", **ids))


@router.get("/{printout_id}", name="printout")
def printout(
    request: Request,
    printout_id: Id,
    classroom: TaughtClass,
    assignment: OwnAssignment,
    user: Teacher,
    session: DbSession,
) -> Response:
    """Show how far the cards are drawn; asked by htmx, that line alone."""
    made = printout_queries.printout_of(session, printout_id, maker_id=user.id)
    name = "_printout.html" if "hx-request" in request.headers else "printout.html"
    version = exercise_queries.version(session, assignment.version_id)
    return page(request, name, printout=made, classroom=classroom, version=version)


@router.get("/{printout_id}/cards.pdf", name="cards_pdf")
def cards_pdf(
    printout_id: Id, classroom: TaughtClass, assignment: OwnAssignment, user: Teacher, session: DbSession
) -> Response:
    """Give the PDF."""
    made = printout_queries.printout_of(session, printout_id, maker_id=user.id)
    if made.content is None:
        raise NotFound(_("cards"), _("there is no card to print yet"), _("Wait until they are drawn"))
    headers = {"Content-Disposition": f'attachment; filename="{slug(classroom.name)}-cards.pdf"'}
    return Response(made.content, media_type="application/pdf", headers=headers)
