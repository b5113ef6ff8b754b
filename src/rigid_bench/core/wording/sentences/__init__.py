"""The sentences of reports by code, in English; `saying` puts in what a message brings.

A kind of check that comes from elsewhere adds its own.
"""

from rigid_bench.core.wording.sentences.bench import BENCH
from rigid_bench.core.wording.sentences.causes import CAUSES
from rigid_bench.core.wording.sentences.contacts import CONTACTS
from rigid_bench.core.wording.sentences.counted import Counted
from rigid_bench.core.wording.sentences.measured import MEASURED
from rigid_bench.core.wording.sentences.next_steps import NEXT_STEPS
from rigid_bench.core.wording.sentences.notices import NOTICES
from rigid_bench.core.wording.sentences.part_features import PART_FEATURES
from rigid_bench.core.wording.sentences.parts import PARTS
from rigid_bench.core.wording.sentences.requirements import REQUIREMENTS

Sentence = str | Counted
#: By code. What stands in braces are a message's parameters, or the class's words: `mate_word`, `mates_word`.
SENTENCES: dict[str, Sentence] = {
    **NOTICES,
    **BENCH,
    **CONTACTS,
    **PARTS,
    **PART_FEATURES,
    **REQUIREMENTS,
    **MEASURED,
    **CAUSES,
    **NEXT_STEPS,
}
