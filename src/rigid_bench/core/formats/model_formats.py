"""Every format of model files, and which one a file has."""

import importlib
import pkgutil

from rigid_bench.core.formats import models
from rigid_bench.core.formats.model_format import ModelFormat
from rigid_bench.core.wording.language import listed

#: By name.
FORMATS: dict[str, ModelFormat] = {
    model_format.name: model_format
    for module in pkgutil.iter_modules(models.__path__)
    for model_format in [importlib.import_module(f"{models.__name__}.{module.name}").FORMAT]
}


def format_of(name: str, data: bytes) -> ModelFormat | None:
    """Return the format that a file has by its content, or else says that it has by its name; None for neither.

    Examples
    --------
    >>> format_of("a.txt", b"ISO-10303-21;").name, format_of("a.stl", b"?").name, format_of("a.txt", b"?")
    ('STEP', 'STL', None)
    """
    by_content = (known for known in FORMATS.values() if known.is_content(data))
    by_name = (known for known in FORMATS.values() if name.lower().endswith(known.extensions))
    return next(by_content, None) or next(by_name, None)


def is_model(data: bytes) -> bool:
    """Say whether a file is a model by its content."""
    return any(known.is_content(data) for known in FORMATS.values())


def format_names(*, exact_only: bool = False) -> str:
    """Name the formats in a list, STEP first: "STEP, BREP or IGES"."""
    names = sorted(
        (known.name for known in FORMATS.values() if known.is_exact or not exact_only),
        key=lambda name: (name != "STEP", not FORMATS[name].is_exact, name),
    )
    return listed(names, "or")


def extensions() -> list[str]:
    """List all endings of model files, with the dot."""
    return [ending for known in FORMATS.values() for ending in known.extensions]
