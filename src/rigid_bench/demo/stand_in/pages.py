"""The few pages of the stand-ins."""

from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined

_PAGES = Environment(
    loader=FileSystemLoader(Path(__file__).parent / "templates"), autoescape=True, undefined=StrictUndefined
)


def show(template: str, **values: Any) -> str:
    """Return a page as HTML."""
    return _PAGES.get_template(template).render(values)
