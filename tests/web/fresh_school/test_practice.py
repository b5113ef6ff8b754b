"""Practice in a browser: what counts, sets, papers, pointing by mouse, and what got better."""

import csv
import io
import re
from datetime import timedelta

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect
from sqlalchemy import select

from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.registry import KINDS, drill_of
from rigid_bench.store.database import Database
from rigid_bench.store.tables import PracticeAnswer, PracticeSet, PracticeStart
from rigid_bench.web.pages.practice.practice import seed_with
from tests.support import school as people
from tests.support.school import School, Visitor
from tests.web.practice.drills import answer_by_keys, shown


def test_only_the_first_answer_counts_and_nonsense_is_refused(address: str, school: School, database: Database) -> None:
    student = Visitor(address, people.STUDENT)
    drill = drill_of("work-it-out", 4, 1)
    sent = {"seed": "4", "level": "1"}
    refused = student.post("/practice/work-it-out", data={**sent, "answer": "about five"})
    assert (refused.status_code, "expression" in refused.text) == (422, True)
    assert student.post("/practice/work-it-out", data=sent).status_code == 422
    near = drill.near[0]
    assert near.text in student.post("/practice/work-it-out", data={**sent, "answer": f"{near.value}"}).text
    assert "Right." in student.post("/practice/work-it-out", data={**sent, "answer": f"{drill.answer[0]} mm"}).text
    with database.session() as session:
        kept = session.scalars(select(PracticeAnswer).where(PracticeAnswer.seed == 4)).all()
        assert [own.is_right for own in kept] == [False]
    for path in ("/practice/nothing", "/practice/work-it-out?level=7", "/practice/nothing/paper"):
        assert student.get(path).status_code == 404


def test_a_set_is_given_done_and_seen(student: Page, address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{school.class_id}/practice"
    for sent, says in (
        ({"number": "3"}, "none was chosen"),
        ({"kinds": "work-it-out", "number": "900"}, "is not from 1 to 50"),
        ({"kinds": "work-it-out", "until": "soon"}, "no time that can be meant"),
    ):
        answer = teacher.post(path, data=sent)
        assert (answer.status_code, says in answer.text) == (422, True)
    teacher.post(path, data={"title": "Walls", "kinds": "work-it-out", "level": "1", "number": "2"})
    student.goto(f"{address}/practice")
    expect(student.get_by_text("0 of 2 done")).to_be_visible()
    for _ in range(2):
        student.get_by_role("link", name="Begin").or_(student.get_by_role("link", name="Go on")).first.click()
        seed = int(student.locator("input[name=seed]").get_attribute("value") or 0)
        student.get_by_label("Answer").fill(str(drill_of("work-it-out", seed, 1).answer[0]))
        student.keyboard.press("Enter")
        expect(student.locator(".drill-said")).to_contain_text("Right.")
        student.goto(f"{address}/practice")
    expect(student.get_by_text("2 of 2 done, 2 right")).to_be_visible()
    text = teacher.get(path).text
    assert re.search(r"1 of \d+ done", text)
    assert 'class="chart"' in text
    assert Visitor(address, people.STUDENT).get(path).status_code in (403, 404)


def test_paper_has_its_answers_on_a_page_of_their_own(address: str, school: School) -> None:
    student = Visitor(address, people.STUDENT)
    for kind in KINDS:
        first, again = (student.get(f"/practice/{kind}/paper?seed=3&count=2").text for _ in range(2))
        questions, answers = first.split('class="paper-answers"')
        assert drill_of(kind, 4, 1).question.split(".")[0][:40] in questions.replace("&#39;", "'").replace("&#34;", '"')
        assert answers.count("<li>") == 2
        assert first.count("☐") == again.count("☐")


def test_an_exercise_of_the_class_is_practised_and_its_mates_open_when_a_card_is_back(
    student: Page, address: str, school: School, database: Database
) -> None:
    student.goto(f"{address}/practice")
    own = student.locator(".practice-exercise").first
    expect(own).to_be_visible()
    assert own.get_by_role("link", name="What is still free?").count() == 0, "it would show how the exercise is mated"
    own.get_by_role("link", name="Read the sheet").click()
    expect(student.locator(".drawing-sheet")).to_be_visible()
    assert Axe().run(student).response["violations"] == []
    version = int(student.locator("input[name=of]").get_attribute("value") or 0)
    student.get_by_label("Answer").fill("0.001")
    student.keyboard.press("Enter")
    expect(student.locator(".drill-said")).to_contain_text("Not yet.")
    with database.session() as session:
        kept = session.scalars(select(PracticeAnswer).where(PracticeAnswer.version_id == version)).all()
        assert [answer.is_right for answer in kept] == [False]
    visitor = Visitor(address, people.STUDENT)
    assert visitor.get(f"/practice/what-is-free?seed=1&of={version}").status_code == 404
    assert visitor.get("/practice/read-the-sheet?seed=1&of=99999").status_code == 404
    teacher = Visitor(address, people.TEACHER)
    shown = teacher.get(f"/practice/what-is-free?seed=1&of={version}")
    assert (shown.status_code, "Mates" in shown.text) == (200, True)
    for _ in range(3):
        come = visitor.get(f"/practice/next?of={version}")
        assert (come.status_code, f"of={version}" in str(come.url)) == (200, True)
    planted = visitor.get(f"/practice/next?of={version}&kind=find-the-fault&slip=radius-for-diameter").text
    assert 'name="slip" value="radius-for-diameter"' in planted
    paper = teacher.get(f"/practice/find-the-fault/paper?seed=1&count=2&of={version}")
    assert paper.text.count('class="paper-drill"') == 2


def test_a_set_has_a_clock_and_counts_where_the_teacher_says_so(
    student: Page, address: str, school: School, database: Database
) -> None:
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{school.class_id}/practice"
    for sent, says in (
        ({"seconds": "2"}, "is not from 5 to 3600"),
        ({"marks": "0"}, "is not from"),
        ({"version_id": "99999"}, "does not work on it"),
    ):
        answer = teacher.post(path, data={"kinds": "work-it-out", **sent})
        assert (answer.status_code, says in answer.text) == (422, True), says
    teacher.post(path, data={"title": "Quick", "kinds": "work-it-out", "level": "1", "number": "4", "seconds": "30",
                             "marks": "8"})  # fmt: skip
    with database.session() as session:
        given = session.scalars(select(PracticeSet).where(PracticeSet.title == "Quick")).one().id
    student.goto(f"{address}/practice/work-it-out?seed=21&level=1&set_id={given}")
    expect(student.get_by_role("timer")).to_contain_text("s left")
    with database.session() as session:  # the time is up
        start = session.scalars(select(PracticeStart).where(PracticeStart.set_id == given)).one()
        start.started_at -= timedelta(minutes=5)
    student.get_by_label("Answer").fill(str(drill_of("work-it-out", 21, 1).answer[0]))
    student.keyboard.press("Enter")
    expect(student.get_by_text("does not count as right")).to_be_visible()
    student.goto(f"{address}/practice/work-it-out?seed=22&level=1&set_id={given}")
    student.get_by_label("Answer").fill(str(drill_of("work-it-out", 22, 1).answer[0]))
    student.keyboard.press("Enter")
    expect(student.locator(".drill-said")).to_contain_text("Right.")
    rows = list(csv.DictReader(io.StringIO(teacher.get(f"/classes/{school.class_id}/marks.csv").text.lstrip("\ufeff"))))
    (row,) = [row for row in rows if row["exercise"] == "Quick" and row["builds"] == "2"]
    assert (row["awarded"], row["available"], row["state"]) == ("2", "8", "practising")
    assert "counts 8 marks" in teacher.get(path).text


def test_a_slip_is_followed_in_the_class(address: str, school: School) -> None:
    student = Visitor(address, people.STUDENT)
    seed = next(seed for seed in range(90) if drill_of("find-the-fault", seed, 1).slip == "radius-for-diameter")
    drill = drill_of("find-the-fault", seed, 1)
    assert drill.then
    wrong = next(choice.id for choice in drill.choices if choice.id not in drill.answer)
    sent = {"seed": str(seed), "level": "1"}
    assert "Not yet." in student.post("/practice/find-the-fault", data={**sent, "answer": wrong}).text
    student.post("/practice/find-the-fault", data={**sent, "first": "wrong", "answer": drill.then.answer[0]})
    text = Visitor(address, people.TEACHER).get(f"/classes/{school.class_id}/practice").text
    assert "radius typed for the diameter" in text
    assert "Not yet" in text


def test_a_petal_and_a_place_are_pointed_at_and_the_motion_is_seen(student: Page, address: str) -> None:
    drill = next(own for seed in range(40) if (own := drill_of("what-is-free", seed, 1)).form == "rose" and own.answer)
    shown(student, address, drill.kind, seed=drill.seed)
    for petal in drill.answer:
        student.locator(f".rose-choice[data-choice={petal}]").click()
    expect(student.locator(".rose-choice.is-chosen")).to_have_count(len(drill.answer))
    student.get_by_role("button", name="Answer").click()
    expect(student.locator(".drill-said")).to_contain_text("Right.")
    drill = next(own for seed in range(40) if "hole" in _right(own := drill_of("find-the-fault", seed, 1))
                 and len(own.given["built"]["holes"]) == 2)  # fmt: skip
    shown(student, address, drill.kind, seed=drill.seed)
    student.locator(f".drill-point[data-choice={drill.answer[0]}]").click()
    student.get_by_role("button", name="Answer").click()
    expect(student.locator(".drill-said")).to_contain_text("Right.")
    drill = shown(student, address, "predict-the-motion", level=2)
    answer_by_keys(student, drill, right=True)
    if drill.then:
        expect(student.get_by_role("heading", name=drill.then.question)).to_be_visible()
        answer_by_keys(student, drill.then, right=True)
    student.get_by_role("slider", name="Along the way").fill("12")
    expect(student.locator(".film-frame").nth(12)).to_be_visible()
    expect(student.locator(".film-frame").first).to_be_hidden()
    student.get_by_role("button", name="See it move").click()
    expect(student.locator(".film-frame").first).to_be_visible()  # there and back


def _right(drill: Drill) -> str:
    return next(choice.text for choice in drill.choices if choice.id in drill.answer)


def test_a_slip_that_is_due_is_planted() -> None:
    for level, slip in ((1, "radius-for-diameter"), (2, "from-other-side"), (3, "mirrored"), (3, "turned-over")):
        assert drill_of("find-the-fault", seed_with("find-the-fault", level, slip), level).slip == slip
    assert drill_of("what-is-free", seed_with("what-is-free", 1, "mate-short"), 1).slip is None


def test_a_set_counts_its_own_drills_and_no_more_of_them(address: str, school: School, database: Database) -> None:
    teacher, student = Visitor(address, people.TEACHER), Visitor(address, people.STUDENT)
    teacher.post(f"/classes/{school.class_id}/practice", data={"title": "Two", "kinds": "work-it-out", "level": "1",
                                                               "number": "2", "marks": "2"})  # fmt: skip
    with database.session() as session:
        given = session.scalars(select(PracticeSet).where(PracticeSet.title == "Two")).one().id
    for kind, seed, level in (
        ("read-the-sheet", 61, 1), ("work-it-out", 62, 2), ("work-it-out", 63, 1), ("work-it-out", 64, 1),
        ("work-it-out", 65, 1),
    ):  # fmt: skip
        answer = [str(own) for own in drill_of(kind, seed, level).answer]
        sent = {"seed": str(seed), "level": str(level), "set_id": str(given)}
        student.post(f"/practice/{kind}", data={**sent, "answer": answer})
    with database.session() as session:
        own = session.scalars(select(PracticeAnswer).where(PracticeAnswer.set_id == given)).all()
        assert sorted(answer.seed for answer in own) == [63, 64]
