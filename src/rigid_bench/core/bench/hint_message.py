"""The next step on a bench, with its reason."""

from rigid_bench.core.bench.documents import BenchParts, BenchState, labels
from rigid_bench.core.bench.hint import Hint
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.wording.phrases import motions_phrase


def hint_message(hint: Hint, state: BenchState, parts: BenchParts) -> Message:
    """Return what comes next, and why.

    Examples
    --------
    >>> hint_message(Hint(code="done"), BenchState(), BenchParts(parts=[])).code
    'hint.done'
    """
    called, models = labels(state, parts), {part.id: part for part in parts.parts}
    match hint.code:
        case "add":
            return phrase("hint.add", part=models[hint.part].name)
        case "ground":
            return phrase("hint.ground", name=called[hint.instances[0]])
        case "mate":
            sides = []
            for name, number in zip(hint.instances, hint.features, strict=True):
                own = state.instance(name)
                features = models[own.part].features if own else []
                sides.append(phrase("hint.side", name=called[name], feature=features[number].words))
            return phrase(
                "hint.mate" if hint.after else "hint.mate-holds",
                one=sides[0], other=sides[1], doing=phrase(f"mate.{hint.kind}"), name=called[hint.instances[1]],
                before=len(hint.before), after=len(hint.after), motions=motions_phrase(hint.after),
            )  # fmt: skip
        case "done":
            return phrase("hint.done")
        case _:
            return phrase("hint.none")
