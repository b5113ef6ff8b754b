"""What two parts show of their relation, in words: every kind of contact."""

from typing import Any, Literal

import numpy as np
import pytest

from rigid_bench.core.assembly.contact.contacts import Contact
from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature
from rigid_bench.core.wording.contacts import contact_message, contact_words
from rigid_bench.core.wording.manner import Manner
from rigid_bench.core.wording.saying import say

ORIGIN, UP = np.zeros(3), np.array([0.0, 0, 1])
FLAT = PlaneFeature(ORIGIN, UP)


def wall(radius: float) -> CylinderFeature:
    return CylinderFeature(ORIGIN, UP, radius)


def contact(kind: Literal["meet", "level", "seated", "in line"], a: Any, b: Any, gap: float) -> Contact:
    return Contact(a=0, b=1, kind=kind, feature_a=a, feature_b=b, gap_mm=gap, at=ORIGIN)


@pytest.mark.parametrize(
    ("own", "words"),
    [
        (contact("meet", FLAT, FLAT, 0.0), "faces meet: Base and Mast"),
        (contact("meet", FLAT, FLAT, 0.4), "keep a gap of 0.4 mm: Base and Mast"),
        (contact("level", FLAT, FLAT, 0.0), "faces level: Base and Mast"),
        (contact("in line", wall(4), wall(4), 0.0), "share an axis: Base and Mast"),
        (contact("seated", wall(8.2), wall(8), 0.2), "share an axis: Mast in Base, Ø16 in Ø16.4, 0.2 mm all round"),
        # the wider one is the hole, whichever comes first
        (contact("seated", wall(8), wall(8.2), 0.2), "share an axis: Base in Mast, Ø16 in Ø16.4, 0.2 mm all round"),
        (contact("seated", wall(8), wall(8), 0.0), "share an axis: Mast in Base, Ø16 in Ø16, no room"),
        # of an overlap the narrower one is the hole
        (contact("seated", wall(8), wall(8.1), -0.1),
         "share an axis: Mast in Base, Ø16.2 in Ø16, overlapping by 0.1 mm all round"),
    ],
)  # fmt: skip
def test_each_relation_has_its_words(own: Contact, words: str) -> None:
    assert contact_words(own, "Base", "Mast") == words


def test_a_gap_is_said_with_three_digits_and_the_classs_sign() -> None:
    own = contact_message(contact("meet", FLAT, FLAT, 0.123456), "Base", "Mast")
    assert say(own, Manner(decimal=",")) == "keep a gap of 0,123 mm: Base and Mast"
