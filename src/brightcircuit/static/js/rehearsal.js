/** A plain display of no make that runs the menu of a profile: nothing is sent. */

const CLOSED = { at: "closed", group: 0, item: 0, value: 0 };

/** The menu as a machine, the same as the server's: keys that do something at a place, and what comes after. */
export class Menu {
  constructor({ menu, groups, rows }) {
    this.menu = menu;
    this.groups = groups;
    this.rows = rows;
    const tree = menu.kind === "tree";
    const keys = ["open", "previous", "down", "enter", "next", "up", "fast_down", "back", "fast_up"];
    this.keys = [...new Set(keys.map((name) => menu[name]).filter(Boolean))];
    this.first = { ...CLOSED, at: tree ? "groups" : "browse" };
  }

  parameter(place) {
    return this.rows[place.group][place.item];
  }

  moved(index, count) {
    const { next, previous, up, down, wraps } = this.menu;
    const to = (by) => (wraps ? (index + by + count) % count : Math.min(Math.max(index + by, 0), count - 1));
    return [
      [next || up, to(1)],
      [previous || down, to(-1)],
    ];
  }

  /** Return [key, place after it, whether it stores] for every key that does something. */
  pressed(place) {
    const { menu } = this;
    if (place.at === "closed") return menu.kind ? [[menu.open, this.first, false]] : [];
    if (place.at === "groups") {
      const moves = this.moved(place.group, this.rows.length);
      return [
        ...moves.map(([key, group]) => [key, { ...place, group, item: 0 }, false]),
        [menu.enter, { ...place, at: "browse", item: 0 }, false],
        [menu.back, CLOSED, false],
      ];
    }
    if (place.at === "browse") {
      const moves = this.moved(place.item, this.rows[place.group].length);
      const out = menu.kind === "tree" ? { ...place, at: "groups", item: 0 } : CLOSED;
      return [
        ...moves.map(([key, item]) => [key, { ...place, item }, false]),
        [menu.enter, { ...place, at: "edit", value: this.parameter(place).stored }, false],
        [menu.back, out, false],
      ];
    }
    const { most } = this.parameter(place);
    const steps = [
      [menu.up, 1],
      [menu.down, -1],
      [menu.fast_up, menu.fast],
      [menu.fast_down, -menu.fast],
    ];
    const moves = steps
      .filter(([key]) => key)
      .map(([key, by]) => [key, { ...place, value: Math.min(Math.max(place.value + by, 0), most) }, false]);
    return [...moves, [menu.enter, { ...place, at: "browse", value: 0 }, true]];
  }

  /** Return the place after a key; what it stores is stored. A key that does nothing leaves all as it is. */
  press(place, key) {
    const found = this.pressed(place).find(([name]) => name === key);
    if (!found) return place;
    if (found[2]) this.parameter(place).stored = place.value;
    return found[1];
  }

  /** Return [code, value] as the display shows them. */
  shown(place) {
    if (place.at === "closed") return ["", ""];
    if (place.at === "groups") return [this.groups[place.group], ""];
    const item = this.parameter(place);
    const steps = place.at === "edit" ? place.value : item.stored;
    const choice = item.words.find(([value]) => value === steps);
    const number = (item.low + steps * item.step).toFixed(item.digits);
    return [item.code, choice ? choice[1] : `${number} ${item.unit}`.trim()];
  }
}

/** The display in the page: its keys are the presses to make, greyed as they are made; a slip gets a new way. */
class Rehearsal {
  constructor(box) {
    this.box = box;
    this.menu = new Menu(JSON.parse(box.dataset.menu));
    this.place = JSON.parse(box.dataset.place);
    this.target = box.dataset.code;
    this.before = new Map(this.menu.rows.flat().map(({ code, stored }) => [code, stored]));
    this.way = [...box.querySelectorAll("[data-way] li")].map((item) => {
      const { key, times } = item.dataset;
      return { key, times: Number(times), made: 0 };
    });
    const pad = box.querySelector("[data-keypad]");
    for (const key of this.menu.keys) {
      const button = document.createElement("button");
      button.type = "button";
      button.className = key === this.menu.menu.open ? "button mono wide" : "button mono";
      button.textContent = key;
      button.addEventListener("click", () => this.press(key));
      pad.append(button);
    }
    pad.hidden = false;
    this.show();
  }

  part(name) {
    return this.box.querySelector(`[data-${name}]`);
  }

  async press(key) {
    const due = this.way.find((press) => press.made < press.times);
    this.place = this.menu.press(this.place, key);
    if (due && due.key === key) {
      due.made += 1;
      if (this.way.every((press) => press.made === press.times)) {
        this.part("said").textContent = "That is it. Do the same on the bike.";
      }
    } else if (due || this.altered()) {
      await this.findWay();
    }
    this.show();
  }

  /** Return a parameter that was stored otherwise by a slip, undefined where there is none. */
  altered() {
    return this.menu.rows
      .flat()
      .find((item) => item.code !== this.target && item.stored !== this.before.get(item.code));
  }

  /** Ask for the way from where the display stands now; what a slip has changed is put back first. */
  async findWay() {
    const [at] = this.menu.shown(this.place);
    const number = (item, steps) => (item.low + steps * item.step).toFixed(item.digits);
    const wrong = this.altered();
    const query = new URLSearchParams({ code: wrong?.code ?? this.target, at });
    const changed = this.menu.rows.flat().filter((item) => item.stored !== this.before.get(item.code));
    query.set("held", changed.map((item) => `${item.code}=${number(item, item.stored)}`).join(","));
    if (wrong) query.set("value", number(wrong, this.before.get(wrong.code)));
    if (this.place.at === "edit") {
      const item = this.menu.parameter(this.place);
      query.set("editing", "on");
      query.set("shown", number(item, this.place.value));
    }
    try {
      const answer = await fetch(`${this.box.dataset.presses}?${query}`);
      const { presses = [], error = "" } = await answer.json();
      this.way = presses.map(({ key, times }) => ({ key, times, made: 0 }));
      const back = wrong && `A slip has changed ${wrong.code}: put it back first.`;
      this.part("said").textContent = error || back || (presses.length ? "This is the way from here." : "");
    } catch {
      this.part("said").textContent = "No answer: leave the menu and begin again.";
    }
  }

  show() {
    const [code, value] = this.menu.shown(this.place);
    this.part("screen-code").textContent = code || "menu closed";
    this.part("screen-value").textContent = value || "–";
    this.part("screen-note").textContent = this.place.at === "edit" ? "being changed" : "";
    const due = this.way.find((press) => press.made < press.times);
    const items = this.way.map(({ key, times, made }) => {
      const item = document.createElement("li");
      const left = times - made;
      item.className = left ? "mono" : "mono pressed";
      item.textContent = left > 1 ? `${key} × ${left}` : key;
      return item;
    });
    this.part("way").replaceChildren(...items);
    for (const button of this.part("keypad").children) {
      button.classList.toggle("main", due?.key === button.textContent);
    }
  }
}

/** Let every rehearsal display of the page run. */
export function attachRehearsal() {
  for (const box of document.querySelectorAll("[data-rehearsal]")) box.rehearsal ??= new Rehearsal(box);
}
