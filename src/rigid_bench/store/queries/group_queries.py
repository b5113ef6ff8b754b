"""What is asked of the database about groups: who works with whom on an exercise, and who did before."""

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence

from sqlalchemy import func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, aliased, joinedload

from rigid_bench.store.tables import Assignment, GroupMembership, Terms


def groups_of(terms: Mapping[tuple[int, int], Terms]) -> dict[tuple[int, int], list[int]]:
    """Return with whom each student works, by student and version, of all that is agreed in one class."""
    members: dict[tuple[int, int], list[int]] = defaultdict(list)
    for (student_id, version_id), own in terms.items():
        if own.group_number is not None:
            members[version_id, own.group_number].append(student_id)
    return {
        (student_id, version_id): [other for other in students if other != student_id]
        for (version_id, _), students in members.items()
        for student_id in students
    }


def others_of(session: Session, class_id: int, version_id: int, student_id: int) -> list[int]:
    """List with whom a student works on an exercise, besides themselves."""
    own, other = aliased(Terms), aliased(Terms)
    query = select(other.student_id).where(
        *(own.class_id == class_id, own.version_id == version_id, own.student_id == student_id),
        *(other.class_id == class_id, other.version_id == version_id, other.student_id != student_id),
        other.group_number == own.group_number,
    )
    return list(session.scalars(query.order_by(other.student_id)))


def keep_group(session: Session, class_id: int, version_id: int, students: Collection[int]) -> None:
    """Let students work on an exercise as one group, out of those that they were in; one alone leaves theirs.

    Who is left behind in a group of two or more stays in it; a group of one ends.
    """
    session.execute(select(Assignment).where(
        Assignment.class_id == class_id, Assignment.version_id == version_id
    ).with_for_update())  # two changes at once would each undo half of the other  # fmt: skip
    before = _numbers(session, class_id, version_id)
    after = {student: number for student, number in before.items() if student not in students}
    if len(students) > 1:
        after |= dict.fromkeys(students, _number_for(session, class_id, version_id, students, before))
    sizes = [list(after.values()).count(number) for number in after.values()]
    after = {student: number for (student, number), size in zip(after.items(), sizes, strict=True) if size > 1}
    own = (GroupMembership.class_id == class_id, GroupMembership.version_id == version_id)
    for student in sorted({*before, *after}):
        number = after.get(student)
        if before.get(student) == number:
            continue
        left = (*own, GroupMembership.student_id == student, GroupMembership.left_at.is_(None))
        session.execute(update(GroupMembership).where(*left).values(left_at=func.now()))
        key = {"class_id": class_id, "version_id": version_id, "student_id": student}
        if number is not None:
            session.add(GroupMembership(**key, number=number, joined_at=func.now()))
        row = insert(Terms).values(**key, group_number=number)
        session.execute(row.on_conflict_do_update(index_elements=list(key), set_={"group_number": number}))
    session.flush()
    session.expire_all()


def _numbers(session: Session, class_id: int, version_id: int) -> dict[int, int]:
    """Return the number of the group in which each student is now."""
    query = select(Terms.student_id, Terms.group_number).where(
        Terms.class_id == class_id, Terms.version_id == version_id, Terms.group_number.is_not(None)
    )
    return {student: number for student, number in session.execute(query) if number is not None}


def _number_for(
    session: Session, class_id: int, version_id: int, students: Collection[int], before: Mapping[int, int]
) -> int:
    """Return the number of a group that these students were all of, which goes on; a new one where there is none."""
    for number in sorted(set(before.values())):
        if {student for student, own in before.items() if own == number} <= set(students):
            return number
    own = (GroupMembership.class_id == class_id, GroupMembership.version_id == version_id)
    return (session.scalar(select(func.max(GroupMembership.number)).where(*own)) or 0) + 1


def history_of(session: Session, class_id: int, version_id: int) -> Sequence[GroupMembership]:
    """List who was in which group of an exercise when, group by group."""
    query = (
        select(GroupMembership)
        .where(GroupMembership.class_id == class_id, GroupMembership.version_id == version_id)
        .options(joinedload(GroupMembership.student))
    )
    return session.scalars(query.order_by(GroupMembership.number, GroupMembership.id)).all()


def copy_groups(session: Session, class_id: int, version_id: int, of_version: int, students: Collection[int]) -> int:
    """Let students work in the groups that they are in for another exercise; return how many groups those are."""
    members: dict[int, list[int]] = defaultdict(list)
    for student, number in _numbers(session, class_id, of_version).items():
        if student in students:
            members[number].append(student)
    groups = [group for group in members.values() if len(group) > 1]
    for group in groups:
        keep_group(session, class_id, version_id, group)
    return len(groups)
