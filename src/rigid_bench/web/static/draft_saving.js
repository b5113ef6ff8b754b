// What is typed in a draft and not kept yet is said, and is kept before anything else is done with the draft.
(() => {
  const form = document.getElementById("draft-form");
  if (!form) return;
  const notice = document.getElementById("unsaved");
  const typed = () => new URLSearchParams(new FormData(form)).toString();
  let kept = typed();

  const isUnsaved = () => typed() !== kept;
  const show = () => notice.toggleAttribute("hidden", !isUnsaved());
  document.addEventListener("input", show);
  document.addEventListener("change", show);

  async function keep() {
    const sent = typed();
    const headers = { "HX-Request": "true" };
    const reply = await fetch(form.action, { method: "POST", body: new FormData(form), headers }).catch(() => null);
    if (reply?.ok) {
      kept = sent;
      show();
      return true;
    }
    window.rigidBench.answer(form, reply ? await reply.text() : document.getElementById("no-answer").innerHTML);
    return false;
  }

  async function keepThen(event, act) {
    if (!isUnsaved()) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (await keep()) act();
  }

  document.addEventListener("submit", (event) => {
    if (event.target === form) return;
    const { target, submitter } = event;
    keepThen(event, () => target.requestSubmit(submitter));
  }, true);
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[href]");
    if (link && link.origin === window.location.origin && !link.hash) keepThen(event, () => link.click());
  }, true);
  document.addEventListener("htmx:beforeOnLoad", (event) => {
    const isRefresh = event.detail.xhr.getResponseHeader("HX-Refresh") === "true";
    if (isRefresh) keepThen(event, () => window.location.reload());
  }, true);
})();
