"""What runs in the sandbox: files in, reports out. Importing any of it loads the solid-modelling kernel."""

import gc

# the kernel's binding makes very many objects that live for good: looking through them for garbage while they are
# made, and again in every child, takes a tenth of the start
gc.disable()
from rigid_bench.core.kernel import binding  # noqa: E402, F401

gc.freeze()
gc.enable()
