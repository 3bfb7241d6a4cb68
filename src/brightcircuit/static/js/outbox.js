/**
 * Sends forms with an id of their own, so that each counts once: at once where the server answers, else in order
 * as soon as it does. Without it the browser sends them itself.
 */
import { busy } from "./busy.js";
import { addressOf, clearDraft, draftKey } from "./drafts.js";
import {
  alike,
  before,
  CHANGED,
  letGo,
  letters,
  mark,
  markSending,
  person,
  putDown,
  ready,
  settle,
  takeOff,
} from "./queue.js";
import { willLand } from "./land.js";
import { OFFLINE, SIGNED_OUT, signInHere, trouble } from "./trouble.js";
import { attachBar, attachBarEvents } from "./waitbar.js";

const AGAIN_MS = 3000;
const BEHIND = "A form before it is still being sent: it goes right after.";
const UNSETTLED = "unsettled";
/** @type {(html: string) => void} */
let showPage = () => {};
let flushing = false;

const tokenOf = (page) => page.querySelector("input[name=csrfmiddlewaretoken]")?.value ?? "";

function newId() {
  return [...crypto.getRandomValues(new Uint8Array(16))]
    .map((byte) => byte.toString(16).padStart(2, "0"))
    .join("");
}

/** What a form is called in the bar: its button's words. */
const nameOf = (form, submitter) =>
  (submitter ?? form.querySelector("button:not([type=button])"))?.textContent.trim() ?? "";

/** A form as it is sent: what, where to, whose draft it settles, from which page, who sends it about what. */
export function letterOf(form, submitter, values = {}) {
  const data = new FormData(form, submitter);
  for (const [name, value] of Object.entries(values)) data.set(name, value);
  data.delete("csrfmiddlewaretoken");
  const settles = "settles" in form.dataset ? sessionStorage.getItem(UNSETTLED) : null;
  const made = {
    url: submitter?.hasAttribute("formaction") ? submitter.formAction : addressOf(form),
    entries: [...data.entries()],
    key: settles ?? draftKey(form),
    page: location.pathname + location.search,
    at: Date.now(),
    person: person(),
    name: document.body.dataset.personName ?? "",
    about: document.querySelector(".bikename")?.textContent.trim() ?? "",
    what: form.dataset.what ?? nameOf(form, submitter),
    secret: form.querySelector("input[type=password]") !== null,
  };
  // The same once more, before the first was answered, is the same letter: two presses count once.
  return { id: alike(made)?.id ?? newId(), ...made };
}

const hasFile = (letter) => letter.entries.some(([, value]) => value instanceof File && value.size > 0);

/** Write a letter down where it may be: no file fits there, and no password belongs there. */
function writtenDown(letter) {
  if (hasFile(letter) || letter.secret) return false;
  try {
    putDown(letter);
    return true;
  } catch {
    return false; // the browser has no room left, or keeps nothing
  }
}

async function post(letter, token) {
  const body = new FormData();
  for (const [name, value] of letter.entries) body.append(name, value);
  const headers = { "X-Sent-Once": letter.id, "X-Person": letter.person, "X-CSRFToken": token };
  return fetch(letter.url, { method: "POST", body, headers });
}

/**
 * Send a letter; returns what came of it: {to, refused}, {sign_in}, {other}, {under_way} or {html}. Throws a TypeError
 * where nobody answers.
 */
async function sent(letter) {
  let response = await post(letter, tokenOf(document));
  if (response.headers.get("X-Token") === "stale") {
    const fresh = new DOMParser().parseFromString(await (await fetch(location.href)).text(), "text/html");
    response = await post(letter, tokenOf(fresh));
  }
  const kind = response.headers.get("Content-Type") ?? "";
  if (kind.startsWith("application/json")) return response.json();
  return { html: await response.text(), status: response.status, url: response.url };
}

/**
 * Write a letter down and send it, behind what waits before it; returns what came of it, null where it waits now.
 * What cannot be written down is sent or lost, and whoever asked is told.
 */
export async function deliver(letter) {
  const first = !before(letter.id);
  const kept = writtenDown(letter);
  try {
    if (!first) throw new TypeError("others wait before it");
    const found = await sent(letter);
    if (found.under_way) throw new TypeError("it is being done");
    takeOff(letter.id);
    return found;
  } catch (error) {
    if (!(error instanceof TypeError)) {
      takeOff(letter.id);
      throw error;
    }
    if (!kept) {
      trouble("No connection to the shop’s server. This cannot be kept here: send it again.");
      return { lost: true };
    }
    mark(letter.id, { state: "waiting" });
    trouble(first ? OFFLINE : BEHIND);
    return null;
  }
}

function go(to) {
  willLand();
  const target = new URL(to, location.href);
  const here = target.pathname === location.pathname;
  if (here) sessionStorage.setItem("scroll", JSON.stringify([location.pathname, scrollY]));
  if (here && target.search === location.search && target.hash) {
    location.replace(target.href);
    location.reload();
  } else {
    location.assign(target.href);
  }
}

/** Tell that the sign-in ended, or that somebody else is signed in now; returns whether it is one of both. */
export function nobodyHere(found) {
  if (found.other) {
    const words = `This browser is signed in as ${found.other} now. Nothing was saved; what you typed is kept.`;
    trouble(words, { href: location.href, words: "Load this page anew" });
  }
  if (found.sign_in) trouble(SIGNED_OUT, { href: signInHere(found.sign_in), words: "Sign in" });
  return Boolean(found.other || found.sign_in);
}

function answered(letter, found) {
  if (found.lost) return;
  if (found.to) {
    if (!found.refused) {
      clearDraft(letter.key, letter.at);
      settle(letter.key);
    }
    trouble("");
    go(found.to);
    return;
  }
  if (nobodyHere(found)) return;
  sessionStorage.setItem(UNSETTLED, letter.key);
  showPage(found.html);
}

async function onSubmit(event) {
  const form = event.target;
  if (event.defaultPrevented || form.getAttribute("method") !== "post" || "plain" in form.dataset) return;
  event.preventDefault();
  if (form.getAttribute("aria-busy") === "true") return;
  const letter = letterOf(form, event.submitter);
  const pressed = busy(event.submitter);
  form.setAttribute("aria-busy", "true");
  form.inert = true;
  const free = () => {
    pressed.done();
    form.removeAttribute("aria-busy");
    form.inert = false;
    if (document.activeElement === document.body) event.submitter?.focus({ preventScroll: true });
  };
  try {
    const found = await deliver(letter);
    if (found === null) {
      pressed.waits();
      return whenGone(letter.id, free);
    }
    answered(letter, found);
  } catch (error) {
    free();
    throw error;
  }
  free();
}

/** Do something once a letter no longer lies in the queue, or came back. */
function whenGone(id, then) {
  const look = () => {
    const letter = letters().find((other) => other.id === id);
    if (letter && letter.state !== "back") return;
    document.removeEventListener(CHANGED, look);
    window.removeEventListener("storage", look);
    then();
  };
  document.addEventListener(CHANGED, look);
  window.addEventListener("storage", look);
}

/** Send what waits of this person, in order, until nobody answers or somebody else is signed in. */
async function flush() {
  if (flushing || !person() || !ready().length) return;
  flushing = true;
  let last = null;
  let back = 0;
  try {
    for (const letter of ready()) {
      markSending(letter.id);
      let found;
      try {
        found = await sent(letter);
      } catch (error) {
        mark(letter.id, { state: "waiting" });
        throw error;
      }
      if (found.under_way || found.sign_in || found.other) {
        mark(letter.id, { state: "waiting" });
        nobodyHere(found);
        return;
      }
      if (!found.to || found.refused) {
        // What others wrote meanwhile goes on: one form that came back holds nobody up.
        mark(letter.id, { state: "back" });
        back += 1;
      } else {
        takeOff(letter.id);
        clearDraft(letter.key, letter.at);
        settle(letter.key);
        last = [letter, found];
      }
    }
    if (back) trouble("Something typed before could not be saved: open the list below.");
    else if (last && last[0].page.split("?")[0] === location.pathname) go(last[1].to);
    else if (last) trouble("Sent what had waited for the server.");
  } catch {
    trouble(OFFLINE);
  } finally {
    flushing = false;
  }
}

/** `show` takes a page that the server answered with instead of leading on. */
export function attachOutbox(show) {
  showPage = show;
  document.addEventListener("submit", onSubmit);
  window.addEventListener("online", flush);
  window.addEventListener("pagehide", letGo);
  attachBarEvents();
  setInterval(flush, AGAIN_MS);
  flush();
}

/** The bar of a page, also of one that is shown in another's place. */
export function attachLetters() {
  attachBar(flush);
}

/** Go back to where the page was scrolled to before a form on it was sent. */
export function attachScroll() {
  const [path, y] = JSON.parse(sessionStorage.getItem("scroll") ?? "[]");
  sessionStorage.removeItem("scroll");
  if (path === location.pathname && !location.hash) scrollTo(0, y);
}
