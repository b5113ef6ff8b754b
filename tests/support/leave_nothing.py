"""Database clusters of the tests that are destroyed when their run ends, however it ends."""

import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from rigid_bench.store.cluster import Cluster


@contextmanager
def destroyed_after(cluster: Cluster) -> Iterator[Cluster]:
    """Destroy the cluster at the end; a process of its own does it, which a killed run does not take along."""
    command = [sys.executable, "-m", "tests.support.leave_nothing", str(cluster.folder)]
    watcher = subprocess.Popen(command, stdin=subprocess.PIPE, start_new_session=True)
    try:
        yield cluster
    finally:
        watcher.communicate()


if __name__ == "__main__":
    sys.stdin.read()  # ends with the process that holds the other end of the pipe
    Cluster(Path(sys.argv[1])).destroy()
