/**
 * Sends forms with an id of their own, so that each counts once: at once where the server answers, else in order
 * as soon as it does. Without it the browser sends them itself.
 */
import { addressOf, clearDraft, draftKey } from "./drafts.js";
import { OFFLINE, SIGNED_OUT, signInHere, trouble } from "./trouble.js";

const WAITING = "outbox";
const AGAIN_MS = 3000;
const UNSETTLED = "unsettled";
/** @type {(html: string) => void} */
let showPage = () => {};
let flushing = false;

const waiting = () => JSON.parse(localStorage.getItem(WAITING) ?? "[]");
const keepWaiting = (letters) => localStorage.setItem(WAITING, JSON.stringify(letters));
const tokenOf = (page) => page.querySelector("input[name=csrfmiddlewaretoken]")?.value ?? "";

function newId() {
  return [...crypto.getRandomValues(new Uint8Array(16))]
    .map((byte) => byte.toString(16).padStart(2, "0"))
    .join("");
}

/** A form as it is sent: what, where to, whose draft it settles, and from which page. */
function letterOf(form, submitter) {
  const data = new FormData(form, submitter);
  data.delete("csrfmiddlewaretoken");
  const settles = "settles" in form.dataset ? sessionStorage.getItem(UNSETTLED) : null;
  return {
    id: newId(),
    url: submitter?.hasAttribute("formaction") ? submitter.formAction : addressOf(form),
    entries: [...data.entries()],
    key: settles ?? draftKey(form),
    page: location.pathname,
    at: Date.now(),
    person: document.body.dataset.person ?? "",
  };
}

const hasFile = (letter) => letter.entries.some(([, value]) => value instanceof File && value.size > 0);

async function post(letter, token) {
  const body = new FormData();
  for (const [name, value] of letter.entries) body.append(name, value);
  const headers = { "X-Sent-Once": letter.id, "X-Person": letter.person, "X-CSRFToken": token };
  return fetch(letter.url, { method: "POST", body, headers });
}

/** Send a letter; returns what came of it: {to, refused}, {sign_in}, {other} or {html}. Throws where nobody answers. */
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

function go(to) {
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

function answered(letter, found) {
  if (found.to) {
    if (!found.refused) clearDraft(letter.key, letter.at);
    trouble("");
    return go(found.to);
  }
  if (found.other) {
    return trouble(
      `This browser is signed in as ${found.other} now. Nothing was saved; what you typed is kept.`,
      {
        href: location.href,
        words: "Load this page anew",
      },
    );
  }
  if (found.sign_in) return trouble(SIGNED_OUT, { href: signInHere(found.sign_in), words: "Sign in" });
  sessionStorage.setItem(UNSETTLED, letter.key);
  return showPage(found.html);
}

async function onSubmit(event) {
  const form = event.target;
  if (event.defaultPrevented || form.getAttribute("method") !== "post" || "plain" in form.dataset) return;
  event.preventDefault();
  if (form.getAttribute("aria-busy") === "true") return;
  const letter = letterOf(form, event.submitter);
  form.setAttribute("aria-busy", "true");
  form.inert = true;
  try {
    if (waiting().length) throw new TypeError("others wait before it");
    answered(letter, await sent(letter));
  } catch (error) {
    if (!(error instanceof TypeError)) throw error;
    if (hasFile(letter)) {
      trouble("No connection to the shop’s server. A file cannot be kept here: send it again.");
    } else {
      keepWaiting([...waiting(), letter]);
      trouble(OFFLINE);
    }
  } finally {
    form.removeAttribute("aria-busy");
    form.inert = false;
    if (document.activeElement === document.body) event.submitter?.focus({ preventScroll: true });
  }
}

/** Send what waits, in order, until somebody has to look or nobody answers. */
async function flush() {
  if (flushing || !waiting().length) return;
  flushing = true;
  try {
    let last = null;
    while (waiting().length) {
      const [letter] = waiting();
      const found = await sent(letter);
      if (found.sign_in || found.other) return answered(letter, found);
      keepWaiting(waiting().slice(1));
      if (!found.to || found.refused) {
        return trouble("Something typed before could not be saved.", {
          href: letter.page,
          words: "Look at it",
        });
      }
      clearDraft(letter.key, letter.at);
      last = [letter, found];
    }
    if (last && last[0].page === location.pathname) go(last[1].to);
    else trouble("Sent what had waited for the server.");
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
  setInterval(flush, AGAIN_MS);
  flush();
}

/** Go back to where the page was scrolled to before a form on it was sent. */
export function attachScroll() {
  const [path, y] = JSON.parse(sessionStorage.getItem("scroll") ?? "[]");
  sessionStorage.removeItem("scroll");
  if (path === location.pathname && !location.hash) scrollTo(0, y);
}
