/**
 * The drawing on Wire: choose plugs and pins, or press a badge, by pointer or keyboard. Changes are sent, and the
 * page's parts swapped. Without it the forms beside the drawing and on Pins do the same.
 */

import { deliver, letterOf, nobodyHere } from "./outbox.js";
import { ready } from "./queue.js";
import { attachZoom, showInBox } from "./zoom.js";

let held = null; // what is chosen: {port, join, pin}
let answers = 0;
const SWAPPED = ["#main", ".linewrap", ".rail"];

const root = () => document.querySelector("[data-wiring]");
const plugs = () => [...root().querySelectorAll("[data-port]")];
const say = (words) => (root().querySelector("[data-wiring-say]").textContent = words);
const name = (plug) => plug.getAttribute("aria-label").replace(/, (free|connected:).*$/, "");
const pinName = (pin) => pin.querySelector("text").textContent;

function fits() {
  return JSON.parse(document.getElementById("wiring-fits").textContent);
}

function show() {
  const form = root().querySelector("[data-wiring-form]");
  const free = held && !held.join ? fits()[held.port] || [] : [];
  bringCard(held?.port);
  for (const plug of plugs()) {
    plug.classList.toggle("held", held?.port === plug.dataset.port && !held.pin);
    const mate = held?.pin && held.join === plug.dataset.join && held.port !== plug.dataset.port;
    plug.classList.toggle("fits", free.includes(plug.dataset.port) || Boolean(mate));
    plug.classList.toggle("same", Boolean(held?.join && held.join === plug.dataset.join));
    for (const pin of plug.querySelectorAll("[data-pin]"))
      pin.classList.toggle("held", held?.pin === pin.dataset.pin);
  }
  for (const wire of root().querySelectorAll("[data-wire]")) {
    wire.classList.toggle("held", Boolean(held?.join && held.join === wire.dataset.wire));
  }
  const pick = document.querySelector("[data-wiring-pick]");
  if (pick) pick.hidden = !held;
  if (!form) return;
  form.elements.join.value = held?.join || "";
  form.querySelector("[data-wiring-do=unjoin]").hidden = !held?.join;
  form.querySelector("[data-wiring-clear]").hidden = !held;
  const open = form.querySelector("[data-wiring-open]");
  open.hidden = !held?.join;
  open.href = held?.join ? `${root().dataset.joinUrl}${held.join}/` : "#";
}

function letGo(words = "") {
  held = null;
  for (const pin of root().querySelectorAll(".at")) pin.classList.remove("at");
  show();
  if (words) say(words);
}

function choose(plug, pin) {
  const here = { port: plug.dataset.port, join: plug.dataset.join, pin: pin?.dataset.pin || "" };
  if (held?.pin && here.pin && held.join === here.join && held.port !== here.port) {
    send({ action: "repin", join: here.join, one: held.pin, two: here.pin }, here.port);
  } else if (held && !held.join && !here.join && held.port !== here.port) {
    if ((fits()[held.port] || []).includes(here.port)) {
      send({ action: "join", one: held.port, two: here.port }, here.port);
    } else {
      const why = "carries nothing that belongs to the plug you hold, or is another make";
      say(`${name(plug)} ${why}. Choose a marked one, or clear the selection.`);
    }
  } else if (held && held.port === here.port && held.pin === here.pin) {
    letGo("Selection cleared.");
  } else {
    held = here;
    show();
    const count = here.join ? 0 : (fits()[here.port] || []).length;
    if (here.pin && here.join) {
      say(`${name(plug)}, pin ${pinName(pin)}: choose the pin of its mate that it shall meet.`);
    } else if (here.join) {
      say(plug.getAttribute("aria-label"));
    } else if (count === 0) {
      say(`${name(plug)}: no free plug on this bike fits it.`);
    } else {
      say(`${name(plug)}: ${count} free plug${count === 1 ? "" : "s"} would fit, marked.`);
    }
  }
}

/** Bring the card of the chosen plug beside the drawing: its face, colours and the volts to expect. */
async function bringCard(port) {
  const place = document.querySelector("[data-plug-card]");
  if (!place) return;
  place.hidden = !port;
  if (!port) return;
  try {
    const answer = await fetch(`${place.dataset.plugCard}${port}/`);
    if (answer.ok && held?.port === port) place.innerHTML = await answer.text();
  } catch {
    place.hidden = true;
  }
}

/** Show where something is on the drawing: a plug, or a part by its first plug. */
function showAt(id) {
  const found = plugs().find((plug) => plug.dataset.port === id || plug.dataset.port.startsWith(`${id}.`));
  if (!found) return;
  showInBox(found);
  held = { port: found.dataset.port, join: found.dataset.join, pin: "" };
  show();
  say(found.getAttribute("aria-label"));
}

/** Begin a drawing at what is proposed first. */
export function startWiring() {
  showInBox(document.querySelector("[data-wiring] [data-proposal]"));
}

/** Show a page that the server answered with instead of a drawing. */
function showWhole(text) {
  const page = new DOMParser().parseFromString(text, "text/html");
  document.querySelector("#main").replaceWith(document.adoptNode(page.querySelector("#main")));
  scrollTo(0, 0);
}

/** Make a proposed connection, where it stands. */
function accept(badge) {
  const pair = badge.dataset.proposal;
  send({ action: "accept", pair }, pair.split("|")[0]);
}

/** What a change of the drawing is called where it waits. */
const CHANGES = {
  accept: "make a connection",
  join: "make a connection",
  unjoin: "part a connection",
  repin: "exchange two pins",
};

/** Return the page that a change leads to, null where it waits or nobody is signed in; that has been said. */
async function pageAfter(form, values) {
  const letter = { ...letterOf(form, null, values), url: location.href, what: CHANGES[values.action] ?? "" };
  const found = await deliver(letter);
  if (!found) {
    say("It waits: the change is sent when the server answers again.");
    return null;
  }
  if (nobodyHere(found)) {
    say("Not sent: see the foot of the page.");
    return null;
  }
  return found.to ? (await fetch(found.to)).text() : found.html;
}

async function send(values, port) {
  const form = root().querySelector("[data-wiring-form]");
  if (!form) return;
  if (ready().length) return say("A change before it still waits for the server.");
  say("Sending …");
  try {
    const text = await pageAfter(form, values);
    if (text === null) return;
    const page = new DOMParser().parseFromString(text, "text/html");
    if (!page.querySelector("[data-wiring]")) return showWhole(text);
    const [x, y] = [scrollX, scrollY];
    for (const part of SWAPPED) {
      const [old, fresh] = [document.querySelector(part), page.querySelector(part)];
      if (old && fresh) old.replaceWith(document.adoptNode(fresh));
    }
    held = null;
    attachZoom();
    bringFixes();
    scrollTo(x, y);
    const plug = root().querySelector(`[data-port="${port}"]`);
    plug?.focus({ preventScroll: true });
    showInBox(plug);
    const told = document.querySelector("#main .hazard[role=alert], #main .notice:not([hidden])");
    if (told) say(told.textContent.trim());
    if (told?.matches(".notice")) told.remove();
    root().dataset.answered = String(++answers);
  } catch (error) {
    say(`The server’s answer could not be shown (${error.message}). Load this page anew.`);
  }
}

/** Move the mark from pin to pin of a plug; returns whether there was one to move to. */
function step(plug, by) {
  const pins = [...plug.querySelectorAll("[data-pin]")];
  const at = pins.findIndex((pin) => pin.classList.contains("at"));
  const next = pins[at < 0 ? (by > 0 ? 0 : pins.length - 1) : at + by];
  for (const pin of root().querySelectorAll(".at")) pin.classList.remove("at");
  if (!next) return say(name(plug));
  next.classList.add("at");
  say(`Pin ${pinName(next)}`);
}

/** Bring what would put each finding right onto the page; the link there leads to the same without this. */
export async function bringFixes() {
  const section = document.querySelector("[data-fixes]");
  if (!section?.querySelector("[data-fixes-for]")) return;
  try {
    const page = new DOMParser().parseFromString(
      await (await fetch(section.dataset.fixes)).text(),
      "text/html",
    );
    for (const place of section.querySelectorAll("[data-fixes-for]")) {
      const fixes = [...page.querySelectorAll("[data-fixes-for]")];
      const made = fixes.find((found) => found.dataset.fixesFor === place.dataset.fixesFor);
      if (made) place.replaceWith(document.adoptNode(made));
    }
  } catch {
    // the link stays
  }
}

/** The element that an event is about; the document itself is none. */
const at = (event) => (event.target instanceof Element ? event.target : null);

export function attachWiring() {
  document.addEventListener("click", (event) => {
    const badge = at(event)?.closest("[data-wiring] [data-proposal]");
    if (badge) return accept(badge);
    const wanted = at(event)?.closest("[data-show-at]");
    if (wanted) return showAt(wanted.dataset.showAt);
    const plug = at(event)?.closest("[data-wiring] [data-port]");
    if (plug) return choose(plug, plug.dataset.join ? at(event)?.closest("[data-pin]") : null);
    if (at(event)?.closest("[data-wiring-clear]")) letGo("Selection cleared.");
  });
  document.addEventListener("submit", (event) => {
    const form = at(event)?.closest("[data-wiring-form]");
    if (!form || !held) return;
    event.preventDefault();
    const button = /** @type {HTMLButtonElement} */ (event.submitter);
    send({ action: button.value, join: held.join }, held.port);
  });
  document.addEventListener("keydown", (event) => {
    if (!root()) return;
    if (event.key === "Escape" && held) return letGo("Selection cleared.");
    const badge = at(event)?.closest("[data-wiring] [data-proposal]");
    if (badge && (event.key === "Enter" || event.key === " ")) {
      event.preventDefault();
      return accept(badge);
    }
    const plug = at(event)?.closest("[data-wiring] [data-port]");
    if (!plug) return;
    if (event.key === "Enter" || event.key === " ") {
      choose(plug, plug.dataset.join ? plug.querySelector(".at") : null);
      event.preventDefault();
    } else if (plug.dataset.join && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      step(plug, event.key === "ArrowDown" ? 1 : -1);
      event.preventDefault();
    } else if (plug.dataset.join && event.key === "Delete") {
      send({ action: "unjoin", join: plug.dataset.join }, plug.dataset.port);
    }
  });
}
