/** Live values of a device, several times a second, without the page being loaded again. */

const PAUSE_MS = 100;
const AFTER_TROUBLE_MS = 2000;

class Live {
  constructor(box) {
    this.box = box;
    this.form = box.querySelector("[data-sweep]");
    this.sweep = null;
    if (this.form) {
      this.form.hidden = false;
      this.form.querySelector("[data-sweep-start]").addEventListener("click", () => {
        this.sweep = [];
      });
    }
    // Opening the page asks the device nothing. Whoever watched in this tab goes on watching.
    this.key = `watch ${box.dataset.live}`;
    const start = box.querySelector("[data-live-start]");
    start.hidden = false;
    start.addEventListener("click", () => this.watch(start));
    if (sessionStorage.getItem(this.key)) this.watch(start);
  }

  watch(start) {
    sessionStorage.setItem(this.key, "1");
    start.hidden = true;
    this.ask();
  }

  async ask() {
    if (!this.box.isConnected) return;
    if (document.hidden) return this.later(AFTER_TROUBLE_MS);
    let pause = PAUSE_MS;
    try {
      const token = document.querySelector("input[name=csrfmiddlewaretoken]")?.value ?? "";
      const answer = await fetch(this.box.dataset.live, {
        method: "POST",
        headers: { Accept: "application/json", "X-CSRFToken": token },
      });
      const told = await answer.json();
      this.say(told.error ?? "");
      if (told.error) pause = AFTER_TROUBLE_MS;
      else this.show(told);
    } catch {
      this.say("no answer");
      pause = AFTER_TROUBLE_MS;
    }
    this.later(pause);
  }

  later(pause) {
    setTimeout(() => this.ask(), pause);
  }

  say(words) {
    this.box.querySelector("[data-live-said]").textContent = words;
    this.box.classList.toggle("stale", Boolean(words));
  }

  show({ values, faults, sector }) {
    for (const place of this.box.querySelectorAll("[data-value]")) {
      const value = values[place.dataset.value];
      place.textContent = Number.isInteger(value)
        ? value
        : value.toFixed(place.dataset.value === "throttle_v" ? 2 : 1);
    }
    for (const piece of this.box.querySelectorAll("[data-sector]")) {
      piece.classList.toggle("lit", Number(piece.dataset.sector) === sector);
    }
    const bits = values.halls;
    this.box.querySelector("[data-hall]").textContent = `${bits & 1}${(bits >> 1) & 1}${(bits >> 2) & 1}`;
    this.box.querySelector("[data-faults]").textContent = faults.length
      ? `It says: ${faults.join(", ")}.`
      : "It says no fault.";
    this.note(values.throttle_v);
  }

  /** Note the throttle while it rises by a step each, for Set. */
  note(volts) {
    if (!this.sweep) return;
    const last = this.sweep.at(-1);
    if (last === undefined || volts > last + Number(this.form.dataset.sweep)) this.sweep.push(volts);
    const points = this.sweep.map((value) => value.toFixed(2)).join(" ");
    this.form.querySelector("[name=sweep]").value = points;
    this.form.querySelector("[data-sweep-said]").textContent = points;
  }
}

/** Let live values run, and a run that is not finished go on by itself. */
export function attachLive() {
  for (const box of document.querySelectorAll("[data-live]")) box.live ??= new Live(box);
  for (const form of document.querySelectorAll("form[data-goes-on]")) {
    setTimeout(() => form.isConnected && form.requestSubmit(form.querySelector("[value=go]")), 300);
  }
}
