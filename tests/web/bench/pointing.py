"""Point at faces on the bench as a hand does: look from where a face is seen, come near, and press on it."""

import json
import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from playwright.sync_api import Page, expect

_Array = NDArray[np.float64]
#: The views that are tried: steps of 0.1 rad from the slantwise view.
_TURNS, _LIFTS = range(-30, 33, 10), (0, 8, 10, -8, -14)
_START = (-0.9, 0.5)
#: Pixels in a mm that a face is looked at with, and triangles of a face that are tried.
_NEAR, _MOST = 6.0, 12


#: What the view says of itself once it has been drawn: it draws at the next frame, and says it then.
_WHEN_DRAWN = """() => new Promise(drawn => requestAnimationFrame(() => requestAnimationFrame(
  () => drawn(document.querySelector("#bench-canvas").dataset.look))))"""


@dataclass(frozen=True, slots=True)
class _Triangles:
    """All triangles of a bench where they stand: corners (n, 3, 3) mm, and whose they are."""

    corners: _Array
    features: list[tuple[str, int]]


def look(page: Page) -> dict[str, Any]:
    """Where the view looks from."""
    said = page.evaluate(_WHEN_DRAWN)
    shown: dict[str, Any] = json.loads(said or "{}")
    return shown


def spot(page: Page, world: Any) -> tuple[float, float]:
    """Return where a place of the world is on the screen."""
    seen = look(page)
    box = page.locator("#bench-canvas").bounding_box()
    assert box
    x, y = _axes(seen["turn"], seen["lift"])[:2] @ (np.array(world, dtype=float) - seen["middle"])
    scale = box["height"] / (2 * seen["half"])
    return box["x"] + box["width"] / 2 + float(x) * scale, box["y"] + box["height"] / 2 - float(y) * scale


def _axes(turn: float, lift: float) -> _Array:
    """Right, up and towards the eye, (3, 3) rows."""
    right = [-math.sin(turn), math.cos(turn), 0.0]
    up = [-math.cos(turn) * math.sin(lift), -math.sin(turn) * math.sin(lift), math.cos(lift)]
    return np.array([right, up, np.cross(right, up)])


def poses(page: Page) -> dict[str, _Array]:
    """Where every instance stands, (4, 4) each, as the server says it."""
    given = page.request.get(f"{page.url}/state").json()["poses"]
    return {name: np.array(values).reshape(4, 4).T for name, values in given.items()}


def _standing(page: Page) -> _Triangles:
    parts = {part["id"]: part for part in page.request.get(f"{page.url}/parts.json").json()["parts"]}
    placed = page.request.get(f"{page.url}/state").json()["placed"]
    corners, features = [], list[tuple[str, int]]()
    for name, pose in poses(page).items():
        part = parts[placed[name]["part"]]
        points = np.array(part["vertices"]).reshape(-1, 3) @ pose[:3, :3].T + pose[:3, 3]
        corners.append(points[np.array(part["triangles"]).reshape(-1, 3)])
        features += [(name, face) for face in part["faces"]]
    return _Triangles(np.concatenate(corners), features)


def _covered(points: _Array, own: NDArray[np.int64], all_: _Array, axes: _Array) -> NDArray[np.bool_]:
    """Say which points have a triangle before them, seen against the third axis."""
    flat, at = all_ @ axes.T, points @ axes.T
    u, v = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    area = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    safe = np.where(np.abs(area) < 1e-9, np.inf, area)
    gone = at[:, None, :] - flat[None, :, 0]
    s = (gone[..., 0] * v[:, 1] - gone[..., 1] * v[:, 0]) / safe
    t = (u[:, 0] * gone[..., 1] - u[:, 1] * gone[..., 0]) / safe
    before = s * u[:, 2] + t * v[:, 2] - gone[..., 2] > 1e-3
    hit = (s > -1e-9) & (t > -1e-9) & (s + t < 1 + 1e-9) & before & (np.abs(area) > 1e-9)
    hit[np.arange(len(points)), own] = False
    return np.asarray(hit.any(axis=1))


def _without(triangles: _Triangles, name: str) -> _Triangles:
    kept = [k for k, feature in enumerate(triangles.features) if feature[0] != name]
    return _Triangles(triangles.corners[kept], [triangles.features[k] for k in kept])


def _seen_from(triangles: _Triangles, wanted: tuple[str, int]) -> tuple[int, int, _Array] | None:
    """Return the steps to a view in which a face is seen best, and the place on it to press; None for no view."""
    own = np.array([k for k, feature in enumerate(triangles.features) if feature == wanted], dtype=np.int64)
    middles = triangles.corners[own].mean(axis=1)
    edges = triangles.corners[own][:, 1:] - triangles.corners[own][:, :1]
    normals = np.cross(edges[:, 0], edges[:, 1])
    best: tuple[float, tuple[int, int, _Array]] | None = None
    for turn in _TURNS:
        for lift in _LIFTS:
            axes = _axes(_START[0] + 0.1 * turn, _START[1] + 0.1 * lift)
            shown = normals @ axes[2] / 2
            order = np.argsort(-shown)[:_MOST]
            order = order[shown[order] > 0]
            if not len(order) or (best and shown[order[0]] <= best[0]):
                continue
            free = order[~_covered(middles[order], own[order], triangles.corners, axes)]
            if len(free) and (best is None or shown[free[0]] > best[0]):
                best = (float(shown[free[0]]), (turn, lift, middles[free[0]]))
    return best[1] if best else None


def press_face(page: Page, instance: str, number: int) -> None:
    """Look round with the shift key held, come near by the wheel, shift by the right button, and press on a face."""
    triangles, hidden = _standing(page), ""
    seen = _seen_from(triangles, (instance, number))
    if seen is None:  # a part that covers it is hidden for the moment
        names = [
            candidate for candidate in dict.fromkeys(name for name, _ in triangles.features) if candidate != instance
        ]
        tried = ((name, _seen_from(_without(triangles, name), (instance, number))) for name in names)
        hidden, seen = next((name, view) for name, view in tried if view)
        _switch(page, "hide", hidden)
    turn, lift, place = seen
    page.get_by_role("button", name="Isometric").click()
    canvas = page.locator("#bench-canvas")
    canvas.scroll_into_view_if_needed()
    box = canvas.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.keyboard.down("Shift")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 15 * turn, y + 15 * lift, steps=2)
    page.mouse.up()
    page.keyboard.up("Shift")
    page.mouse.move(*spot(page, place))
    page.mouse.wheel(0, 600 * math.log(box["height"] / (2 * look(page)["half"]) / _NEAR))
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    x, y = spot(page, place)
    page.mouse.move(*middle)
    page.mouse.down(button="right")
    page.mouse.move(2 * middle[0] - x, 2 * middle[1] - y, steps=2)
    page.mouse.up(button="right")
    page.mouse.click(*spot(page, place))
    if hidden:
        _switch(page, "show", hidden)


def _switch(page: Page, word: str, name: str) -> None:
    called = page.request.get(f"{page.url}/state").json()["placed"][name]["name"]
    page.get_by_role("button", name=f"{word} {called}", exact=True).click()


def feature_of(page: Page, label: str) -> tuple[str, int]:
    """Find a feature by what the lists call it; a hole's depth may be left out."""
    options = page.locator("#bench-mate select[name=a] option").evaluate_all("all => all.map(o => [o.text, o.value])")
    value = next(value for text, value in options if f"{text}, ".startswith(f"{label}, "))
    name, _, number = value.rpartition(":")
    return name, int(number)


def point_at(page: Page, label: str, which: str) -> None:
    """Press on the face that the lists call so, and see that it was understood."""
    press_face(page, *feature_of(page, label))
    name, words = label.split(": ", 1)
    expect(page.locator("#bench-said")).to_contain_text(f"{which}: {words}")
    expect(page.locator("#bench-said")).to_contain_text(f"in {name}")
