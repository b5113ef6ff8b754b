"""Files are kept once by their content, in the database or in an S3-compatible store; against a stand-in for one."""

import hashlib
import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from fastapi import FastAPI, Request
from fastapi.responses import Response

from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.files import FileStoreSilent, object_store, sweep_files
from rigid_bench.store.queries import build_queries, work_queries
from rigid_bench.store.tables import Build, BuildFile, StoredFile
from tests.support import school as people
from tests.support.program import serving, serving_app
from tests.support.school import School, Visitor

BOX = b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n"


class Bucket:
    """Objects by path, as far as this program asks for them (PUT, GET, HEAD of one, DeleteObjects)."""

    def __init__(self) -> None:
        self.objects: dict[str, bytes] = {}
        self.is_silent = False

    def app(self) -> FastAPI:
        """Return the server; whether what comes is signed, it looks at, and not how."""
        app = FastAPI()

        @app.api_route("/{path:path}", methods=["PUT", "GET", "HEAD", "POST"])
        async def answer(request: Request, path: str) -> Response:
            assert request.headers["authorization"].startswith("AWS4-HMAC-SHA256 Credential=bench/")
            if self.is_silent:
                return Response(status_code=403)
            if request.method == "PUT":
                self.objects[path] = await request.body()
                return Response(headers={"ETag": f'"{hashlib.md5(self.objects[path]).hexdigest()}"'})
            if request.method == "POST":
                assert request.url.query == "delete"
                keys = re.findall("<Key>([^<]+)</Key>", (await request.body()).decode())
                for key in keys:
                    self.objects.pop(f"{path}/{key}", None)
                told = "".join(f"<Deleted><Key>{key}</Key></Deleted>" for key in keys)
                return Response(f"<DeleteResult>{told}</DeleteResult>", media_type="application/xml")
            if path not in self.objects:
                return Response(status_code=404)
            moment = datetime.now(UTC).strftime("%a, %d %b %Y %H:%M:%S GMT")
            return Response(self.objects[path], headers={"ETag": '"x"', "Last-Modified": moment})

        return app


@pytest.fixture(scope="module")
def bucket() -> Bucket:
    return Bucket()


@pytest.fixture(scope="module")
def with_bucket(settings: Settings, bucket: Bucket) -> Iterator[Settings]:
    """Settings with a store beside the database."""
    with serving_app(bucket.app()) as address:
        given = {
            "file_store": "s3://handed-in/school", "file_store_endpoint": address, "file_store_key": "bench",
            "file_store_secret": "secret",
        }  # fmt: skip
        yield Settings.model_validate(settings.model_dump() | given)


@pytest.fixture(scope="module", params=["database", "bucket"])
def store(request: pytest.FixtureRequest, settings: Settings, with_bucket: Settings) -> Iterator[Database]:
    given = settings if request.param == "database" else with_bucket
    database = Database(given.database_url, objects=object_store(given))
    yield database
    database.close()


def hand_in(database: Database, school: School, files: dict[str, bytes], *, who: int | None = None) -> int:
    with database.session() as session:
        build = build_queries.add_build(
            session, class_id=school.class_id, version_id=school.version_id, student_id=who or school.student_id,
            files=files, evidence={"sketch.png": b"PNG" + files["box.step"]}, state="graded",
        )  # fmt: skip
        return build.id


def test_a_file_is_kept_once_and_read_wherever_it_lies(store: Database, school: School) -> None:
    content = BOX + store.url.encode() + str(id(store)).encode()
    ids = [hand_in(store, school, {"box.step": content}, who=who) for who in (school.student_id, school.classmate_id)]
    digest = hashlib.sha256(content).hexdigest()
    with store.session() as session:
        assert session.query(StoredFile).filter_by(digest=digest).count() == 1
        for build_id in ids:
            build = session.get_one(Build, build_id)
            files = {file.name: file.content for file in build.files}
            assert files == {"box.step": content, "sketch.png": b"PNG" + content}
            build.state = "queued"
            work = work_queries.start_measuring(session, build_id)
            assert work is not None
            assert work.files == {"box.step": content}
        session.rollback()


def test_what_no_build_has_any_more_is_swept_after_an_hour(store: Database, school: School, bucket: Bucket) -> None:
    content = BOX + b"swept" + str(id(store)).encode()
    digest = hashlib.sha256(content).hexdigest()
    build_id = hand_in(store, school, {"box.step": content})
    is_elsewhere = f"handed-in/school/{digest[:2]}/{digest}" in bucket.objects
    with store.session() as session:
        assert (session.get_one(StoredFile, digest).content is None) is is_elsewhere
        session.query(StoredFile).update({"kept_at": datetime.now(UTC) - timedelta(hours=2)})
        sweep_files(session)
        assert session.get(StoredFile, digest) is not None, "a build has it"
        session.query(BuildFile).filter_by(build_id=build_id).delete()
        session.query(StoredFile).filter_by(digest=digest).update({"kept_at": datetime.now(UTC)})
        sweep_files(session)
        assert session.get(StoredFile, digest) is not None, "somebody may be handing in the same just now"
        session.query(StoredFile).update({"kept_at": datetime.now(UTC) - timedelta(hours=2)})
        assert sweep_files(session) >= 1
        session.expire_all()
        assert session.get(StoredFile, digest) is None
    assert f"handed-in/school/{digest[:2]}/{digest}" not in bucket.objects


def test_a_store_that_is_silent_takes_nothing_and_loses_nothing(
    with_bucket: Settings, school: School, bucket: Bucket
) -> None:
    where = f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"
    with serving(with_bucket) as address:
        student = Visitor(address, people.STUDENT)
        bucket.is_silent = True
        answer = student.post(where, files={"box.step": BOX + b"  "})
        bucket.is_silent = False
        assert (answer.status_code, "does not answer as it should" in answer.text) == (503, True)
        assert student.post(where, files={"box.step": BOX + b"  "}).url.path.endswith("/look")


def test_a_content_that_was_exchanged_is_not_handed_out(with_bucket: Settings, school: School, bucket: Bucket) -> None:
    objects = object_store(with_bucket)
    assert objects is not None
    digest = hashlib.sha256(BOX).hexdigest()
    objects.put(digest, BOX)
    assert objects.read(digest) == BOX
    bucket.objects[f"handed-in/school/{digest[:2]}/{digest}"] = b"another"
    with pytest.raises(FileStoreSilent, match="not what was handed in"):
        objects.read(digest)
    objects.delete(digest)
    objects.delete(digest)
    with pytest.raises(FileStoreSilent, match="does not answer"):
        objects.read(digest)
