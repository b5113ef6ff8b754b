"""The words of the field as pages and reports use them: each with its meaning in at most twelve words."""

from dataclasses import dataclass


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
    Entry(term="degrees of freedom (DOF)", meaning="how many ways a part can still move, of six", also="free motions",
          drawing="freedom"),
    Entry(term="partly constrained", meaning="it can still move some ways", also="guided", drawing="guided"),
    Entry(term="fully constrained", meaning="it cannot move at all", also="held", drawing="held"),
    Entry(term="over-constrained", meaning="it cannot move, and has more mates than it needs", also="over-held"),
    Entry(term="conflicting", meaning="its mates cannot all hold at once; one must go", also="clashing"),
    Entry(term="unconstrained", meaning="nothing holds it; it can move every way", also="loose"),
    Entry(term="grounded", meaning="fixed in place, so that other parts can hold on to it", drawing="grounded"),
    Entry(term="mate", meaning="a rule between two parts: faces meet, axes line up", also="constraint",
          drawing="mate"),
    Entry(term="clearance", meaning="the room between two parts, on one side or across the diameter",
          also="gap a side, gap on the diameter", drawing="clearance"),
    Entry(term="interference", meaning="two parts take up the same room; one is too large", also="overlap",
          drawing="interference"),
    Entry(term="fit", meaning="how tight a round part sits in its hole, such as H7/g6", drawing="clearance"),
    Entry(term="datum", meaning="the face or axis from which sizes are measured", drawing="datum"),
    Entry(term="chain", meaning="sizes measured one after the other; their tolerances add up", drawing="chain"),
    Entry(term="fully dimensioned", meaning="every size and place is given once", also="rigid"),
    Entry(term="under-dimensioned", meaning="a size or place is not given", also="loose in so many ways"),
    Entry(term="over-dimensioned", meaning="a size is given twice, and the two may disagree",
          also="conflicts with, dimensioned twice"),
    Entry(term="diameter Ø", meaning="right across a circle, through its middle", drawing="diameter"),
    Entry(term="radius R", meaning="from the middle of a circle to its edge", drawing="radius"),
    Entry(term="depth ↧", meaning="how far a hole or pocket goes in", drawing="depth"),
    Entry(term="thickness t", meaning="how thick a plate or wall is", drawing="thickness"),
    Entry(term="tolerance", meaning="how much a size may be off and still be right"),
    Entry(term="section", meaning="a view of the part cut open, with the cut hatched", drawing="section"),
    Entry(term="isometric view", meaning="a picture that shows three sides at once", also="pictorial view",
          drawing="isometric"),
    Entry(term="met, near, missed", meaning="right; just outside the tolerance; off"),
    Entry(term="unchecked", meaning="could not be measured from what you handed in"),
    Entry(term="follows from", meaning="off only because something else is; marks are taken once"),
    Entry(term="flush, proud, sunk", meaning="level with its neighbour, standing out, or lying deeper",
          drawing="flush"),
    Entry(term="re-mark", meaning="measure a build again, by a newer version of the exercise"),
)  # fmt: skip
