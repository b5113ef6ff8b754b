"""The words of the field as pages and reports use them: each with its meaning in at most twelve words."""

from dataclasses import dataclass

from rigid_bench.core.wording.language import N_


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """A term of the glossary."""

    term: str
    #: At most twelve words.
    meaning: str
    #: The rose's own word, or another name for it.
    also: str = ""
    #: Which drawing shows it; "" for none.
    drawing: str = ""


GLOSSARY = (
    Entry(
        term=N_("degrees of freedom (DOF)"),
        meaning=N_("how many ways a part can still move, of six"),
        also=N_("free motions"),
        drawing="freedom",
    ),
    Entry(
        term=N_("partly constrained"), meaning=N_("it can still move some ways"), also=N_("guided"), drawing="guided"
    ),
    Entry(term=N_("fully constrained"), meaning=N_("it cannot move at all"), also=N_("held"), drawing="held"),
    Entry(
        term=N_("over-constrained"),
        meaning=N_("it cannot move, and has more mates than it needs"),
        also=N_("over-held"),
    ),
    Entry(term=N_("conflicting"), meaning=N_("its mates cannot all hold at once; one must go"), also=N_("clashing")),
    Entry(term=N_("unconstrained"), meaning=N_("nothing holds it; it can move every way"), also=N_("loose")),
    Entry(term=N_("grounded"), meaning=N_("fixed in place, so that other parts can hold on to it"), drawing="grounded"),
    Entry(
        term=N_("mate"),
        meaning=N_("a rule between two parts: faces meet, axes line up"),
        also=N_("constraint"),
        drawing="mate",
    ),
    Entry(
        term=N_("clearance"),
        meaning=N_("the room between two parts, on one side or across the diameter"),
        also=N_("gap a side, gap on the diameter"),
        drawing="clearance",
    ),
    Entry(
        term=N_("interference"),
        meaning=N_("two parts take up the same room; one is too large"),
        also=N_("overlap"),
        drawing="interference",
    ),
    Entry(term=N_("fit"), meaning=N_("how tight a round part sits in its hole, such as H7/g6"), drawing="clearance"),
    Entry(term=N_("datum"), meaning=N_("the face or axis from which sizes are measured"), drawing="datum"),
    Entry(term=N_("chain"), meaning=N_("sizes measured one after the other; their tolerances add up"), drawing="chain"),
    Entry(term=N_("fully dimensioned"), meaning=N_("every size and place is given once"), also=N_("rigid")),
    Entry(term=N_("under-dimensioned"), meaning=N_("a size or place is not given"), also=N_("loose in so many ways")),
    Entry(
        term=N_("over-dimensioned"),
        meaning=N_("a size is given twice, and the two may disagree"),
        also=N_("conflicts with, dimensioned twice"),
    ),
    Entry(term=N_("diameter Ø"), meaning=N_("right across a circle, through its middle"), drawing="diameter"),
    Entry(term=N_("radius R"), meaning=N_("from the middle of a circle to its edge"), drawing="radius"),
    Entry(term=N_("depth ↧"), meaning=N_("how far a hole or pocket goes in"), drawing="depth"),
    Entry(term=N_("thickness t"), meaning=N_("how thick a plate or wall is"), drawing="thickness"),
    Entry(term=N_("tolerance"), meaning=N_("how much a size may be off and still be right")),
    Entry(term=N_("section"), meaning=N_("a view of the part cut open, with the cut hatched"), drawing="section"),
    Entry(
        term=N_("isometric view"),
        meaning=N_("a picture that shows three sides at once"),
        also=N_("pictorial view"),
        drawing="isometric",
    ),
    Entry(term=N_("met, near, missed"), meaning=N_("right; just outside the tolerance; off")),
    Entry(term=N_("unchecked"), meaning=N_("could not be measured from what you handed in")),
    Entry(term=N_("follows from"), meaning=N_("off only because something else is; marks are taken once")),
    Entry(
        term=N_("flush, proud, sunk"),
        meaning=N_("level with its neighbour, standing out, or lying deeper"),
        drawing="flush",
    ),
    Entry(term=N_("re-mark"), meaning=N_("measure a build again, by a newer version of the exercise")),
)
