"""Grade the sample builds anew and keep them in `demo/graded.zip`: after a change of the samples or of the grader."""

from rigid_bench.demo.graded import FILE, grade_samples
from rigid_bench.jobs.sandbox import Sandbox

if __name__ == "__main__":
    with Sandbox() as sandbox:
        FILE.write_bytes(grade_samples(sandbox, progress=print))
    print(f"{FILE.name}: {FILE.stat().st_size / 1e6:.1f} MB")
