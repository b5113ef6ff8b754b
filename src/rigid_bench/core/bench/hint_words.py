"""The next step on a bench, in a sentence, with its reason."""

from rigid_bench.core.assembly.mates.registry import words_of
from rigid_bench.core.bench.documents import BenchParts, BenchState, labels
from rigid_bench.core.bench.hint import Hint
from rigid_bench.core.wording.quantities import motions_words


def hint_words(hint: Hint, state: BenchState, parts: BenchParts) -> str:
    """Say what comes next, and why.

    Examples
    --------
    >>> hint_words(Hint(code="done"), BenchState(), BenchParts(parts=[]))
    'All mates of the solution are made. Look at what is still free, then hand it in.'
    """
    called, models = labels(state, parts), {part.id: part for part in parts.parts}
    match hint.code:
        case "add":
            return f"Add {models[hint.part].name}: what comes next is mated with it."
        case "ground":
            return f"Ground {called[hint.instances[0]]}: all that moves is judged against the part that stands still."
        case "mate":
            sides = []
            for name, number in zip(hint.instances, hint.features, strict=True):
                own = state.instance(name)
                listed = models[own.part].features if own else []
                sides.append(f"{called[name]} ({listed[number].words})")
            left = motions_words(hint.after)
            return (
                f"Mate {sides[0]} with {sides[1]}: {words_of(hint.kind)}. {called[hint.instances[1]]} goes from "
                f"{len(hint.before)} DOF to {len(hint.after)}: {'it ' if hint.after else ''}{left}."
            )
        case "done":
            return "All mates of the solution are made. Look at what is still free, then hand it in."
        case _:
            return "There is no hint here: these parts are not those of the exercise."
