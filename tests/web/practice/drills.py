"""Drills in a browser: opened by kind and seed, and answered by keys."""

from playwright.sync_api import Page

from rigid_bench.core.practice.drill import Drill, Step
from rigid_bench.core.practice.registry import drill_of

_PETALS = ("tx", "ty", "tz", "rx", "ry", "rz")
SEED = 17


def shown(page: Page, address: str, kind: str, level: int = 1, seed: int = SEED) -> Drill:
    page.goto(f"{address}/practice/{kind}?seed={seed}&level={level}")
    return drill_of(kind, seed, level)


def keys(step: Step, *, right: bool) -> list[str]:
    """What is typed for an answer, before Enter."""
    if step.form == "number":
        return [*str(step.answer[0] if right else step.answer[0] + 100)]
    if step.form == "rose":
        wanted = [str(_PETALS.index(petal) + 1) for petal in step.answer]
        return wanted if right else [] if wanted else ["1"]
    ids = [choice.id for choice in step.choices]
    taken = (
        (step.answer if step.many else step.answer[:1])
        if right
        else [next(own for own in ids if own not in step.answer)]
    )
    return [str(ids.index(own) + 1) for own in taken]


def answer_by_keys(page: Page, step: Step, *, right: bool) -> None:
    for key in keys(step, right=right):
        page.keyboard.press(key if key != "." else "Period")
    page.keyboard.press("Enter")
