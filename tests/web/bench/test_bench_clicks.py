"""The mast of twelve parts by mouse, click by click: what is likely next is offered where the hand is."""

import pytest
from playwright.sync_api import Page, expect

from tests.web.bench.bench_pages import opened
from tests.web.bench.pointing import feature_of, poses, press_face
from tests.web.bench.test_bench import check_mast

#: Clicks that are allowed.
_MOST = 45


class Keys:
    """A keyboard that counts its steps: a button that is pressed, a list from which something is taken."""

    def __init__(self, page: Page) -> None:
        self.page, self.steps = page, 0

    def at(self) -> str:
        return self.page.locator("#bench").get_attribute("data-at") or ""

    def press(self, name: str) -> None:
        before = self.at()
        self.page.get_by_role("button", name=name).first.focus()
        self.page.keyboard.press("Enter")
        self.steps += 1
        expect(self.page.locator("#bench")).not_to_have_attribute("data-at", before)

    def mate(self, first: str, second: str, doing: str) -> None:
        for name, words in (("a", first), ("b", second)):
            chosen = self.page.locator(f"#bench-mate select[name={name}]")
            options = [own.strip() for own in chosen.locator("option").all_inner_texts()]
            chosen.select_option(index=next(k for k, own in enumerate(options) if f"{own}, ".startswith(f"{words}, ")))
            self.steps += 1
        offers = self.page.locator("#bench-mate select[name=doing]:not([disabled])")
        if offers.input_value() != doing:
            offers.select_option(doing)
            self.steps += 1
        self.press("Keep it")

    def take(self, doing: str, words: str = "") -> None:
        """Take what is likely next: its list by one key, and its number."""
        before = self.at()
        self.page.locator("#bench-canvas").focus()
        self.page.keyboard.press("n")
        offers = self.page.locator("#bench-offers button[data-doing]")
        texts = offers.all_inner_texts()
        place = next(
            k for k, own in enumerate(offers.all()) if own.get_attribute("data-doing") == doing and words in texts[k]
        )
        self.page.keyboard.press(str(place + 1))
        self.page.keyboard.press("Enter")
        self.steps += 3
        expect(self.page.locator("#bench")).not_to_have_attribute("data-at", before)

    def leave(self) -> None:
        """Nothing stands open where nothing was pointed at."""


class Hand:
    """A hand that counts its clicks; looking round is dragging, and no click."""

    def __init__(self, page: Page) -> None:
        self.page, self.clicks = page, 0

    def press(self, name: str) -> None:
        before = self.page.locator("#bench").get_attribute("data-at") or ""
        self.page.get_by_role("button", name=name).first.click()
        self.clicks += 1
        expect(self.page.locator("#bench")).not_to_have_attribute("data-at", before)

    def leave(self) -> None:
        """Leave what is offered; not counted as a click."""
        self.page.keyboard.press("Escape")

    def point(self, label: str) -> None:
        press_face(self.page, *feature_of(self.page, label))
        self.clicks += 1

    def take(self, doing: str, words: str = "") -> None:
        """Take an offer that stands at the pointer, and wait for what it brings."""
        before = self.page.locator("#bench").get_attribute("data-at") or ""
        offers = self.page.locator(f"#bench-offers button[data-doing={doing}]").filter(has_text=words)
        expect(offers.first).to_be_visible()
        offers.first.click()
        self.clicks += 1
        expect(self.page.locator("#bench")).not_to_have_attribute("data-at", before)

    def mate(self, first: str, second: str, doing: str) -> None:
        self.point(first)
        self.point(second)
        self.take(doing)


def put_together(by: Hand | Keys) -> None:
    """Put the mast together: where likely mates are offered they are taken, else left."""
    for name in ("Add Base", "ground Base", "Add Dowel"):
        by.press(name)
    by.mate("Base: top face, z = 4", "Dowel (1): bottom face, z = 0", "faces-meet")
    by.take("share-an-axis", "x = 22, y = 0")
    by.take("likewise")
    by.press("Add Mast")
    by.mate("Base: top face, z = 12", "Mast: bottom face, z = 0", "faces-meet")
    by.leave()
    for k, at in enumerate(("x = 22, y = 0", "x = -22, y = 0"), 1):
        by.mate(f"Dowel ({k}): Ø4 round, x = 0, y = 0", f"Mast: Ø4 hole, {at}", "share-an-axis")
        by.leave()
    by.press("Add Bearing 608")
    by.mate("Mast: top face, z = 201", "Bearing 608: bottom face, z = 0", "faces-meet")
    by.take("share-an-axis", "Ø8 hole")
    by.press("Add Rotor")
    by.mate("Bearing 608: top face, z = 7", "Rotor: bottom face, z = 7", "faces-meet")
    by.take("share-an-axis", "Ø22 hole")
    by.press("Add Screw M5 x 16")
    by.mate("Mast: top face, z = 8", "Screw M5 x 16 (1): bottom face, z = 0", "faces-meet")
    by.take("share-an-axis", "Ø5 round, x = 0, y = 0; Mast, Ø5.5 hole, x = -15.56, y = -15.56")
    by.take("likewise")
    by.press("Add Collar")
    by.mate("Mast: Ø20 round, x = 0, y = 0", "Collar: Ø20.4 hole, x = 0, y = 0", "share-an-axis")
    by.leave()
    by.press("Add Vane")
    by.mate("Collar: top face, z = 20", "Vane: bottom face, z = 0", "faces-meet")
    by.take("share-an-axis", "Ø20.4 hole")


@pytest.mark.usefixtures("worker", "with_mast")
def test_the_mast_of_twelve_parts_takes_few_clicks(student: Page) -> None:
    hand = Hand(opened(student))
    put_together(hand)
    print(f"the mast by mouse: {hand.clicks} clicks")
    assert hand.clicks <= _MOST
    assert len(poses(student)) == 12
    check_mast(student)


@pytest.mark.usefixtures("worker", "with_mast")
def test_by_keyboard_it_takes_twice_as_many_steps_at_most(student: Page) -> None:
    keys = Keys(opened(student))
    put_together(keys)
    print(f"the mast by keyboard: {keys.steps} steps")
    assert keys.steps <= 2 * _MOST
    check_mast(student)
