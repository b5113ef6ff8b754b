"""The tables of the trade: threads, screws, fits, bearings, materials, each with its source; searched by words."""

from typing import Annotated

from fastapi import Query, Request
from fastapi.responses import Response

from rigid_bench.core.standards.tables import Table, all_tables
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import SignedIn

router = page_router()


@router.get("/tables")
def trade_tables(request: Request, user: SignedIn, q: Annotated[str, Query(max_length=100)] = "") -> Response:
    """Show the tables, or the rows in which the words stand; to a search as it is typed, the rows alone."""
    words = q.split()
    tables = [(table, rows) for table in all_tables() if (rows := table.matching(words))]
    is_fragment = request.headers.get("HX-Request") == "true"
    template = "_trade_tables_found.html" if is_fragment else "trade_tables.html"
    return page(request, template, tables=tables, q=q, count=_count(tables))


def _count(tables: list[tuple[Table, tuple[tuple[str, ...], ...]]]) -> int:
    return sum(len(rows) for _, rows in tables)
