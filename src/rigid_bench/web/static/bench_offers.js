// What two pointed features can do, beside the pointer: keys 1 to 9, previewed as they are gone over, kept with Enter.
const MOST = 9;
const ROOM = 8; // pixels between the list and the borders of the view

export class Offers {
  // `preview` and `keep` take what is chosen; `close` is told when the list is left without a choice
  constructor(box, { preview, keep, close }) {
    Object.assign(this, { box, preview, keep, close, list: [] });
    box.addEventListener("pointerover", (event) => this.over(event.target.closest("button[data-doing]")));
    box.addEventListener("focusin", (event) => this.over(event.target.closest("button[data-doing]")));
    box.addEventListener("click", (event) => {
      const button = event.target.closest("button");
      if (button?.dataset.doing) this.take(this.offer(button));
      else if (button) this.leave();
    });
    box.addEventListener("keydown", (event) => {
      const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
      if (!step) return;
      event.preventDefault();
      const buttons = this.buttons();
      buttons[(buttons.indexOf(document.activeElement) + step + buttons.length) % buttons.length].focus();
    });
  }

  get isOpen() {
    return !this.box.hidden;
  }

  buttons() {
    return Array.from(this.box.querySelectorAll("button[data-doing]"));
  }

  offer(button) {
    return this.list[this.buttons().indexOf(button)];
  }

  // offers: {doing, words, term}, with the features a and b where they are not those that were pointed at; the place of
  // the pointer in the view, pixels
  show(offers, x, y) {
    this.list = offers.slice(0, MOST);
    this.last = null;
    this.box.replaceChildren(...this.list.map((offer, k) => {
      const button = document.createElement("button");
      button.type = "button";
      button.dataset.doing = offer.doing;
      const key = document.createElement("kbd");
      key.textContent = k + 1;
      const term = document.createElement("span");
      term.className = "quiet";
      term.textContent = offer.term;
      button.append(key, ` ${offer.words} `, term);
      return button;
    }));
    const foot = document.createElement("p");
    foot.className = "quiet";
    foot.textContent = t("Enter keeps · F other way round · Q quarter turn · Esc back");
    this.box.append(foot);
    this.box.hidden = false;
    const view = this.box.parentElement;
    this.box.style.left = `${Math.max(ROOM, Math.min(x + 2 * ROOM, view.clientWidth - this.box.offsetWidth - ROOM))}px`;
    this.box.style.top = `${Math.max(ROOM, Math.min(y - ROOM, view.clientHeight - this.box.offsetHeight - ROOM))}px`;
    this.buttons()[0]?.focus();
  }

  over(button) {
    if (!button || this.offer(button) === this.last) return;
    this.last = this.offer(button);
    this.buttons().forEach((other) => other.classList.toggle("is-over", other === button));
    this.preview(this.last);
  }

  take(offer) {
    this.hide();
    this.keep(offer);
  }

  leave() {
    this.hide();
    this.close();
  }

  hide() {
    this.box.hidden = true;
  }

  // whether a key was meant for the list
  key(event) {
    if (!this.isOpen) return false;
    const offer = this.list[Number(event.key) - 1];
    if (offer) this.buttons()[Number(event.key) - 1].focus();
    else if (event.key === "Enter") this.take(this.last || this.list[0]);
    else if (event.key === "Escape") this.leave();
    else return false;
    event.preventDefault();
    return true;
  }
}
