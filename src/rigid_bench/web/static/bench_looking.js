// How the bench is looked at: from the standard sides, drawn apart, cut.
const ASK_AGAIN = 500; // ms

export class Looking {
  // `here` gives the step that is shown; `called` what an instance is called
  constructor({ view, server, here, called, say }) {
    Object.assign(this, { view, server, here, called, say, hasWays: false, isFinding: false });
    this.apart = document.getElementById("bench-apart");
    document.querySelectorAll("[data-view]").forEach((button) => {
      button.addEventListener("click", () => view.from(button.dataset.view));
    });
    this.apart.addEventListener("input", () => {
      view.spread(this.share());
      this.findWays();
    });
    document.addEventListener("htmx:configRequest", (event) => {
      if (event.detail.path.endsWith("/apart") && this.share()) event.detail.parameters.percent = this.apart.value;
    });
    const [axis, place] = ["bench-cut", "bench-cut-at"].map((id) => document.getElementById(id));
    for (const field of [axis, place]) {
      field.addEventListener("input", () => view.cut(axis.value, Number(place.value) / 100));
    }
  }

  share() {
    return Number(this.apart.value) / 100;
  }

  // take the ways that the server knows already; null where it must look for them
  know(ways) {
    this.hasWays = Boolean(ways);
    this.view.away = ways || {};
  }

  // how the build comes apart is found in the background, once somebody wants to see it
  async findWays() {
    if (!this.share() || this.hasWays || this.isFinding) return;
    this.isFinding = true;
    this.say(t("Looking how it comes apart …"));
    try {
      let answer = await this.server.ask("/ways", {});
      while (answer.is_waiting) {
        await new Promise((done) => { window.setTimeout(done, ASK_AGAIN); });
        answer = await this.server.ask("/ways");
      }
      if (answer.ways && answer.at === this.here().at) this.show(answer.ways);
    } catch (error) {
      if (!(error instanceof TypeError)) this.say(error.message);
    }
    this.isFinding = false;
  }

  show(ways) {
    this.know(ways.shifts);
    this.view.spread(this.share());
    const names = (list) => list.map((name) => this.called(name)).join(", ");
    const stuck = ways.stuck.length ? ` ${t("Nothing lets {names} out.", { names: names(ways.stuck) })}` : "";
    this.say(t("In this order: {names}.", { names: names(ways.order) }) + stuck);
  }
}
