"""The school's classroom values for fits: a teacher may change the program's own."""

from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.core.standards.allowances import ALLOWANCES
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
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
    if action not in ALLOWANCES.get(process, {}):
        raise FormRejected(
            _("fit"),
            _("there is no fit '{action}, {process}'", action=action, process=process),
            _("Choose one from the table"),
        )
    low, high = (
        number_between(text, -_MOST, _MOST, where="gap a side in mm", field=name)
        for name, text in (("least", least), ("most", most))
    )
    if low > high:
        raise FormRejected(
            f"{action}, {process}",
            _("{low:g} is more than {high:g}", low=low, high=high),
            _("Give the smaller gap first"),
        )
    class_queries.set_allowance(session, process=process, action=action, least=low, most=high)
    log(session, "allowance-changed", who_id=user.id, class_id=None, fit=f"{action}, {process}")
    return RedirectResponse(request.url_for("allowances"), status_code=303)
