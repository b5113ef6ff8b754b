"""The registry of kinds of check: every module here that has a `KIND`."""

import importlib
import pkgutil
from typing import Any

from rigid_bench.core.exercise.bundle import FILE, CheckModel
from rigid_bench.core.grading.checks.base import CheckKind
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _, series

__all__ = ["KINDS", "kind_of"]


def _find_kinds() -> dict[str, CheckKind[Any]]:
    modules = [importlib.import_module(f"{__name__}.{module.name}") for module in pkgutil.iter_modules(__path__)]
    kinds = [module.KIND for module in modules if hasattr(module, "KIND")]
    return {kind.name: kind for kind in kinds}


KINDS = _find_kinds()


def kind_of(check: CheckModel) -> CheckKind[Any]:
    """Return the kind of a check.

    Raises
    ------
    InvalidDocument
        There is no such kind; the message says which there are.
    """
    if check.kind not in KINDS:
        known = series(sorted(KINDS))
        raise InvalidDocument(
            _("{file}, check '{id}'", file=FILE, id=check.id),
            _("there is no kind of check '{kind}'", kind=check.kind),
            _("The kinds are: {known}", known=known),
        )
    return KINDS[check.kind]
