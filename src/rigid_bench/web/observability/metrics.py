"""What whoever watches the program is told: requests by route, and the queue, in the format of Prometheus."""

import os
from collections.abc import Iterator

from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.multiprocess import MultiProcessCollector

from rigid_bench.store.database import Database
from rigid_bench.store.queries import work_queries

#: With several processes, where each writes its counts: the library's own variable.
FOLDER_VARIABLE = "PROMETHEUS_MULTIPROC_DIR"
#: Seconds; a page is to be there within half a second.
_STEPS = (0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0)


class Metrics:
    """Counts of one application."""

    def __init__(self, database: Database, *, silent_s: float) -> None:
        self._database, self._silent_s = database, silent_s
        self._registry = CollectorRegistry()
        labels = ("method", "route", "status")
        self._requests = Counter(
            "rigid_bench_requests", "Requests by route and status", labels, registry=self._registry
        )
        self._seconds = Histogram(
            "rigid_bench_request_seconds", "How long requests took", ("route",), buckets=_STEPS, registry=self._registry
        )

    def note(self, *, method: str, route: str, status: int, seconds: float) -> None:
        """Count a request; its route is the pattern, so that nobody's number is in it."""
        self._requests.labels(method, route, str(status)).inc()
        self._seconds.labels(route).observe(seconds)

    def written(self) -> bytes:
        """Return all of it, the queue as it is just now."""
        registry = CollectorRegistry()
        if FOLDER_VARIABLE in os.environ:
            MultiProcessCollector(registry)  # type: ignore[no-untyped-call]  # the library leaves it untyped
        else:
            registry = self._registry
        return generate_latest(registry) + generate_latest(_OfQueue(self._database, self._silent_s))


class _OfQueue(CollectorRegistry):
    """The queue, read when it is asked for."""

    def __init__(self, database: Database, silent_s: float) -> None:
        super().__init__()
        self._database, self._silent_s = database, silent_s

    def collect(self) -> Iterator[Metric]:
        """Read it."""
        with self._database.session() as session:
            oldest_s = work_queries.oldest_waiting_s(session)
            workers = work_queries.live_workers(session, silent_s=self._silent_s)
            jobs = work_queries.count_jobs(session)
        yield GaugeMetricFamily("rigid_bench_oldest_job_seconds", "Age of the oldest job that waits", value=oldest_s)
        yield GaugeMetricFamily("rigid_bench_live_workers", "Workers that live", value=workers)
        waiting = GaugeMetricFamily("rigid_bench_jobs", "Jobs in the queue", labels=("task", "state"))
        for (task, state), count in jobs.items():
            waiting.add_metric((task, state), count)
        yield waiting
