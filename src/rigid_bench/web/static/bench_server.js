// What the bench asks the server; a step that finds no connection is kept in the browser until there is one again.
const AGAIN = 2000; // ms
const AWAY = [502, 503, 504]; // what a proxy answers while the server behind it starts anew

export class BenchServer {
  // `here` gives the step and the part that are shown; `take` shows an answer, `say` a sentence
  constructor({ url, csrf, here, take, say }) {
    Object.assign(this, { url, csrf, here, take, say });
    this.waiting = `bench-waiting:${url}`;
    this.line = Promise.resolve();
    window.addEventListener("online", () => this.sendRemembered());
  }

  async ask(path, values) {
    const options = { headers: { Accept: "application/json" } };
    if (values) {
      options.method = "POST";
      options.body = new URLSearchParams({ csrf: this.csrf, ...values });
    }
    const answer = await fetch(`${this.url}${path}`, options);
    if (AWAY.includes(answer.status)) throw new TypeError("the server is away");
    const body = await answer.json().catch(() => {
      throw new Error(t("The bench: the server's answer could not be read. Try again, and tell your teacher if it stays so."));
    });
    if (!answer.ok) throw Object.assign(new Error(`${body.where}: ${body.problem}. ${body.next_step}.`), { status: answer.status });
    return body;
  }

  remembered() {
    return JSON.parse(localStorage.getItem(this.waiting) || "[]");
  }

  remember(steps) {
    localStorage.setItem(this.waiting, JSON.stringify(steps));
  }

  // one after the other: who presses quickly means the second after the first, and no answer overtakes a later one
  inLine(work) {
    this.line = this.line.then(work).catch((error) => this.say(error.message));
    return this.line;
  }

  step(values, path = "/steps") {
    return this.inLine(() => this.takeStep(values, path));
  }

  // where the bench stands, with another part chosen
  choose(chosen) {
    return this.inLine(async () => this.take(await this.ask(`/state?chosen=${encodeURIComponent(chosen)}`)));
  }

  async takeStep(values, path) {
    const { at, chosen } = this.here();
    try {
      if (this.remembered().length) throw new TypeError("earlier steps wait");
      this.take(await this.ask(path, { base: at, chosen, ...values }));
    } catch (error) {
      if (error instanceof TypeError) {
        this.remember([...this.remembered(), { path, values }]);
        this.say(t("No connection. Your step is kept here and is taken as soon as there is one."));
        window.setTimeout(() => this.sendRemembered(), AGAIN);
        return;
      }
      this.say(error.message);
      if (path === "/drag" || error.status === 409) {
        this.take(await this.ask(`/state?chosen=${encodeURIComponent(chosen)}`));
      }
    }
  }

  sendRemembered() {
    return this.inLine(() => this.takeRemembered());
  }

  async takeRemembered() {
    if (!this.remembered().length) return;
    try {
      while (this.remembered().length) {
        const [first, ...rest] = this.remembered();
        const now = await this.ask("/state"); // another window may have gone on
        this.take(await this.ask(first.path, { ...first.values, base: now.at, chosen: this.here().chosen }));
        this.remember(rest);
      }
      this.say(t("The connection is back, and your steps are taken."));
    } catch (error) {
      if (error instanceof TypeError) window.setTimeout(() => this.sendRemembered(), AGAIN);
      else {
        this.remember(this.remembered().slice(1));
        this.say(error.message);
      }
    }
  }
}
