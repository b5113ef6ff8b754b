"""Counts what a hand does on a page: presses of the mouse and of keys; what is typed into a field is one."""

from playwright.sync_api import Page

_SCRIPT = """
(() => {
  const add = (what) => {
    const found = JSON.parse(sessionStorage.getItem("hand") || '{"clicks": 0, "keys": 0}');
    found[what] += 1;
    sessionStorage.setItem("hand", JSON.stringify(found));
  };
  let typed = null;
  window.addEventListener("click", (event) => { if (event.isTrusted && event.detail > 0) add("clicks"); }, true);
  window.addEventListener("keydown", (event) => {
    if (!event.isTrusted) return;
    const isField = event.target.matches?.("input:not([type=checkbox], [type=radio]), textarea");
    const isText = isField && event.key.length === 1;
    if (isText && typed === event.target) return;
    typed = isText ? event.target : null;
    add("keys");
  }, true);
})();
"""


def count_from_here(page: Page) -> None:
    """Begin to count, on this page and those that follow."""
    page.add_init_script(_SCRIPT)
    page.evaluate("sessionStorage.removeItem('hand')")
    page.reload()


def counted(page: Page) -> tuple[int, int]:
    """Return clicks and keys since the beginning."""
    counted = page.evaluate("JSON.parse(sessionStorage.getItem('hand') || '{\"clicks\": 0, \"keys\": 0}')")
    return int(counted["clicks"]), int(counted["keys"])
