// One proposed mate at a time: Y says that it is so, N that it is not, the left arrow goes back; then all are sent.
const form = document.getElementById("confirm");
const items = Array.from(form.querySelectorAll("[data-proposal]"));
const state = form.querySelector("[data-state]");
const send = form.querySelector("[data-send]");
const back = form.querySelector("[data-back]");
let at = 0; // which is asked; after the last, what was said is shown as a whole

// what stands in for another is asked only where that was refused
const isAsked = (number) => !("instead" in items[number].dataset) || items[number - 1].dataset.said === "no";

function show() {
  const isDone = at === items.length;
  const asked = items.filter((item, number) => isAsked(number));
  form.classList.toggle("is-asking", !isDone);
  items.forEach((item, number) => {
    item.hidden = isDone ? !isAsked(number) : number !== at;
    item.querySelector(".confirm-keys").hidden = isDone;
    item.querySelector(".tick").hidden = !isDone;
    item.classList.toggle("is-no", isDone && !item.querySelector("input").checked);
  });
  send.closest(".confirm-end").hidden = false;
  send.hidden = !isDone;
  back.hidden = at === 0;
  const agreed = form.querySelectorAll("[data-proposal] input:checked").length;
  state.textContent = isDone
    ? t("{agreed} of {all} are so. Look once more, then hand in with them.", { agreed, all: asked.length })
    : t("{at} of {all}", { at: asked.indexOf(items[at]) + 1, all: asked.length });
  (isDone ? send : items[at]).focus();
}

function say(answer) {
  if (at === items.length) return;
  items[at].querySelector("input").checked = answer === "yes";
  items[at].dataset.said = answer;
  at += 1;
  if (at < items.length && !isAsked(at)) { // a stand-in that is not needed any more is not so
    items[at].querySelector("input").checked = false;
    at += 1;
  }
  show();
}

function goBack() {
  at = Math.max(0, at - 1);
  if (!isAsked(at)) at -= 1;
  show();
}

form.addEventListener("click", (event) => {
  const button = event.target.closest("[data-answer]");
  if (button) say(button.dataset.answer);
});
form.addEventListener("change", show);
back.addEventListener("click", goBack);
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.target.matches("a, summary")) return;
  const actions = { y: () => say("yes"), n: () => say("no"), arrowleft: goBack, backspace: goBack };
  const action = actions[event.key.toLowerCase()];
  if (!action) return;
  event.preventDefault();
  action();
});
send.querySelector("[data-send-key]").hidden = false;
show();
