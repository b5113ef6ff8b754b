"""The database cluster: starts again over the same data, on loopback only, behind a password."""

from pathlib import Path

import psycopg
import pytest

from rigid_bench.store.cluster import Cluster


def test_data_outlives_a_stop_and_a_fresh_start_forgets_it(tmp_path: Path) -> None:
    cluster = Cluster(tmp_path / "var")
    try:
        with psycopg.connect(cluster.start()) as connection:
            connection.execute("create table kept (n int)")
        cluster.stop()
        cluster.stop()  # a second time does nothing
        with psycopg.connect(cluster.start()) as connection:
            assert connection.execute("select count(*) from kept").fetchone() == (0,)
            assert connection.execute("show listen_addresses").fetchone() == ("127.0.0.1",)
        assert Path((tmp_path / "var" / "cluster-path").read_text().strip()) == cluster.data
        cluster.destroy()
        with psycopg.connect(cluster.start()) as connection, pytest.raises(psycopg.errors.UndefinedTable):
            connection.execute("select count(*) from kept")
    finally:
        cluster.destroy()


def test_without_the_password_nobody_gets_in(cluster_url: str) -> None:
    server = cluster_url.rsplit("@", 1)[1]
    with pytest.raises(psycopg.OperationalError, match="password"):
        psycopg.connect(f"postgresql://rigid_bench:wrong@{server}")
