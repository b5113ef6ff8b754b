"""What is said on the bench: what a step did, what stops a part, what comes next."""

from rigid_bench.core.wording.language import N_

BENCH: dict[str, str] = {
    "bench.a-face": N_("a face"),
    "bench.at-limit": N_("{Mate_word} {mate} is at its limit."),
    "bench.clashes": N_("{mate} clashes with {others}: flip it, or take one away."),
    "bench.could": N_("it could {doing}"),
    "bench.could-all-six": N_("it could move in all six ways"),
    "bench.feature-of": N_("{feature} of {name}"),
    "bench.holds-nothing": N_("{mate} holds nothing that {others} did not hold already."),
    "bench.now": N_("{name}: {now}."),
    "bench.stopped": N_("Stopped: {meeting}."),
    "bench.the-ground": N_("the ground"),
    "bench.was-and-now": N_("{name}: {was}; now it {now}."),
    "bench.was-and-stuck": N_("{name}: {was}; now nothing can move."),
    "hint.add": N_("Add {part}: what comes next is mated with it."),
    "hint.done": N_("All {mates_word} of the solution are made. Look at what is still free, then hand it in."),
    "hint.ground": N_("Ground {name}: all that moves is judged against the part that stands still."),
    "hint.mate": N_("{Mate_word} {one} with {other}: {doing}. {name} goes from {before} DOF to {after}: it {motions}."),
    "hint.mate-holds": N_(
        "{Mate_word} {one} with {other}: {doing}. {name} goes from {before} DOF to {after}: {motions}."
    ),
    "hint.none": N_("There is no hint here: these parts are not those of the exercise."),
    "hint.side": N_("{name} ({feature})"),
}
