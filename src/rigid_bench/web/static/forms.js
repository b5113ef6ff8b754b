// Forms are sent in the background, so that a page is not lost when one cannot be used: what is wrong, or is to be
// confirmed, is said below the form, and everything typed stays; of a form that is but a button it is said in a dialog.
// Without scripts forms work as forms do. None is sent twice by a second press.
(() => {
  const mine = "form[method=post]:not([data-plain]):not([hx-post])";
  const isTyped = (form) => Array.from(form.elements).some((field) => field.matches("input:not([type=hidden]), textarea, select"));

  function prepare(root) {
    const forms = Array.from(root.matches?.(mine) ? [root] : root.querySelectorAll(mine));
    forms.forEach((form) => {
      form.setAttribute("hx-post", form.getAttribute("action") || window.location.href);
      form.setAttribute("hx-swap", "none");
      form.setAttribute("hx-sync", "this:drop"); // a second press while the first is under way does nothing
      if (form.enctype === "multipart/form-data") form.setAttribute("hx-encoding", "multipart/form-data");
    });
    return forms;
  }

  function forget(form) {
    if (form.nextElementSibling?.matches(".form-answer")) form.nextElementSibling.remove();
    for (const field of form.elements) field.removeAttribute("aria-invalid");
  }

  function dismiss(box) {
    if (box.matches("dialog")) box.close();
    else box.remove();
  }

  // A field is named, and where a form has several of one name also numbered: "nominal[3]".
  function fieldOf(form, name) {
    const [, base, index] = /^([^[]*)(?:\[(\d+)\])?$/.exec(name) || [];
    const field = base && form.elements.namedItem(base);
    return field instanceof RadioNodeList ? field[Number(index || 0)] : field;
  }

  function answerInDialog(html) {
    const dialog = document.createElement("dialog");
    dialog.className = "form-answer";
    dialog.innerHTML = html;
    if (!dialog.querySelector("[data-confirm]")) {
      dialog.insertAdjacentHTML("beforeend", '<form method="dialog" class="actions"><button class="button"></button></form>');
      dialog.lastElementChild.firstElementChild.textContent = t("Close");
    }
    dialog.addEventListener("close", () => dialog.remove());
    document.querySelectorAll("dialog.form-answer").forEach((former) => former.close());
    document.body.append(dialog);
    prepare(dialog).forEach((inner) => htmx.process(inner));
    dialog.showModal();
  }

  function answer(form, html) {
    if (!isTyped(form)) answerInDialog(html);
    else answerBelow(form, html);
    form.dispatchEvent(new CustomEvent("refused"));
  }

  function answerBelow(form, html) {
    forget(form);
    const box = document.createElement("div");
    box.className = "form-answer";
    box.innerHTML = html;
    form.insertAdjacentElement("afterend", box);
    prepare(box).forEach((inner) => htmx.process(inner));
    const field = fieldOf(form, box.querySelector("[data-field]")?.dataset.field || "");
    if (field) {
      field.setAttribute("aria-invalid", "true");
      field.closest("details")?.setAttribute("open", "");
    }
    (field || box.querySelector("[data-confirm=yes]") || box).focus?.();
    box.scrollIntoView({ block: "nearest" });
  }

  // The place to go to: another page, or the same one anew, for what stands on it has changed. A page that can put the
  // new one in its place by itself takes the event.
  function go(address) {
    const target = new URL(address, window.location.href);
    if (!document.dispatchEvent(new CustomEvent("form-done", { detail: target, cancelable: true }))) return undefined;
    const isHere = target.pathname === window.location.pathname && target.search === window.location.search;
    if (!isHere) return window.location.assign(target);
    window.history.replaceState(null, "", target); // with its place on the page, or with none any more
    return window.location.reload();
  }

  prepare(document);
  document.addEventListener("htmx:load", (event) => prepare(event.target).forEach((form) => htmx.process(form)));
  document.addEventListener("htmx:beforeOnLoad", (event) => {
    const { xhr, elt } = event.detail;
    if (!elt.matches("form")) return;
    const address = xhr.getResponseHeader("HX-Redirect");
    if (address) {
      event.preventDefault();
      go(address);
    } else if (xhr.status >= 400) {
      event.preventDefault();
      answer(elt, xhr.responseText);
    }
  });
  document.addEventListener("htmx:sendError", (event) => {
    if (!event.detail.elt.matches("form")) return;
    answer(event.detail.elt, document.getElementById("no-answer").innerHTML);
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-confirm=no]")) dismiss(event.target.closest(".form-answer"));
    if (event.target.closest("[data-print]")) window.print();
  });
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (form.method !== "post" || form.hasAttribute("hx-post") || event.defaultPrevented) return;
    if (form.dataset.sent) event.preventDefault();
    form.dataset.sent = "yes";
  });
  window.addEventListener("pageshow", (event) => {
    if (!event.persisted) return; // a fresh page may be sending already when it is shown
    document.querySelectorAll("form[data-sent]").forEach((form) => delete form.dataset.sent);
  });
  document.querySelectorAll("[data-browser-zone]").forEach((field) => {
    field.value = Intl.DateTimeFormat().resolvedOptions().timeZone;
  });
  window.rigidBench = { answer };
})();
