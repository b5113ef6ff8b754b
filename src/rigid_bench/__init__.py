"""Rigid Bench: measures students' models and assemblies against an exercise."""

import os

# Before numpy is loaded: our matrices are small, and on them several threads of the linear
# algebra wait for each other more than they work.
for _name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(_name, "1")
