"""Addresses of pages for templates: each page's pattern is looked up once, and filled from then on.

The framework looks through all routes for every address; a page of links has hundreds of them.
"""

from typing import Any

from fastapi import Request
from jinja2 import pass_context
from jinja2.runtime import Context
from starlette.datastructures import URL, URLPath


def address_of(request: Request, name: str, /, **values: Any) -> URL:
    """Return the address of a page by the name of its route.

    Parameters
    ----------
    request
        To whom the page answers: his server's name is the address's.
    name
        Of the route.
    values
        What its path asks for, such as `class_id`.

    Raises
    ------
    starlette.routing.NoMatchFound
        There is no route of this name that asks for these values.
    """
    patterns: dict[tuple[str, ...], str] = request.app.state.path_patterns
    key = (name, *values)
    if key not in patterns:
        patterns[key] = request.app.url_path_for(name, **{field: f"{{{field}}}" for field in values})
    return URLPath(patterns[key].format(**values)).make_absolute_url(base_url=request.base_url)


@pass_context
def url_for(context: Context, name: str, /, **values: Any) -> URL:
    """Return the address of a page, for templates; values as for `address_of`."""
    return address_of(context["request"], name, **values)
