/**
 * The bar at the foot of every page: which forms wait, whose they are, and what can be done about them. Without it
 * nobody would know that something is still to be sent.
 */
import { clearDraft } from "./drafts.js";
import { CHANGED, lying, person, takeOff } from "./queue.js";

const bar = () => document.querySelector("[data-outbox]");

/** "Fern: Save reading", as far as the letter says. */
const about = (letter) => [letter.about, letter.what].filter(Boolean).join(": ") || "a form";

const whose = (letter) => (letter.person === person() ? "" : letter.name || "somebody else");

function headline(all) {
  const count = all.length === 1 ? "1 form waiting" : `${all.length} forms waiting`;
  const [first] = all;
  return [count, [first.name, about(first)].filter(Boolean).join(", ")].join(" · ");
}

function button(words, press) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "quietlink";
  made.textContent = words;
  made.addEventListener("click", press);
  return made;
}

/** A first press asks, a second one throws away. */
function discarding(letter) {
  const made = button("Discard", () => {
    if (made.dataset.asked) {
      clearDraft(letter.key, letter.at);
      takeOff(letter.id);
      return;
    }
    made.dataset.asked = "yes";
    made.textContent = "Discard it for good?";
  });
  return made;
}

function standing(letter) {
  if (letter.state === "back") return "could not be saved.";
  const other = whose(letter);
  if (other) return `goes when ${other} has signed in here.`;
  return "goes when the server answers.";
}

function row(letter) {
  const line = document.createElement("li");
  const time = new Date(letter.at).toTimeString().slice(0, 5);
  const who = [letter.name, about(letter)].filter(Boolean).join(", ");
  line.append(`${who} (${time}) ${standing(letter)} `);
  if (letter.state === "back") {
    const link = document.createElement("a");
    link.href = letter.page;
    link.textContent = "Look at it";
    line.append(link, " ");
  }
  line.append(discarding(letter));
  return line;
}

/** Draw the bar anew from what lies in the queue. */
function draw() {
  const place = bar()?.querySelector("[data-letters]");
  if (!place) return;
  const all = lying();
  place.hidden = !all.length;
  if (!all.length) return;
  place.querySelector("summary").textContent = headline(all);
  const list = place.querySelector("ul") ?? document.createElement("ul");
  list.replaceChildren(...all.map(row));
  place.querySelector("summary").after(list);
  place.querySelector("[data-send-now]").hidden = !all.some(
    (letter) => letter.state !== "back" && letter.person === person(),
  );
}

/** Draw the bar of a page; `send` sends what waits. */
export function attachBar(send) {
  draw();
  bar()?.querySelector("[data-send-now]")?.addEventListener("click", send);
}

/** Keep the bar true for as long as the page lives: also of what another tab does. */
export function attachBarEvents() {
  document.addEventListener(CHANGED, draw);
  window.addEventListener("storage", draw);
}
