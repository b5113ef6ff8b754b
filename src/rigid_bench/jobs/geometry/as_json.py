"""Any task with its report written as JSON in the sandbox, so that whoever asks needs no model of it."""

import importlib
from typing import Any


def as_json(task: str, skip_none: bool, *values: Any) -> str:
    """Do a task of this package and return its report as JSON.

    Parameters
    ----------
    task
        Module and function.
    skip_none
        Leave out what is not known.
    values
        What the task takes.
    """
    module, _, function = task.rpartition(".")
    report = getattr(importlib.import_module(f"{__package__}.{module}"), function)(*values)
    written: str = report.model_dump_json(indent=2, by_alias=True, exclude_none=skip_none)
    return written
