"""The school's classroom values for fits: a teacher may change the program's own."""

from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.app.people import school
from rigid_bench.core.standards.allowances import ALLOWANCES
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import class_queries
from rigid_bench.web.forms import number_between
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, Teacher

router = page_router("/allowances")
#: mm: no classroom gap is larger, on either side of nothing.
_MOST = 10.0


@router.get("", name="allowances")
def allowances(request: Request, user: Teacher, session: DbSession) -> Response:
    """Show the values, the school's own where there are some."""
    own = class_queries.allowances(session)
    rows = [
        (process, action, own.get(process, {}).get(action, values), action in own.get(process, {}), values)
        for process, actions in ALLOWANCES.items()
        for action, values in actions.items()
    ]
    return page(request, "allowances.html", rows=rows)


@router.post("/{process}/{action}", name="change_allowance", dependencies=[CheckedForm])
def change_allowance(
    request: Request,
    process: str,
    action: str,
    user: Teacher,
    session: DbSession,
    least: Annotated[str, Form(max_length=20)] = "",
    most: Annotated[str, Form(max_length=20)] = "",
) -> Response:
    """Keep the school's own value for a fit; exercises that are set from now on have it."""
    low, high = (
        number_between(text, -_MOST, _MOST, where=_("gap a side in mm"), field=name)
        for name, text in (("least", least), ("most", most))
    )
    school.change_allowance(session, process, action, least=low, most=high, teacher=user)
    return RedirectResponse(request.url_for("allowances"), status_code=303)
