/**
 * The letters of this browser: forms that were sent and that no server has answered yet. A letter is written down
 * before it is sent, so that it outlives a lost line, a closed page and a browser that crashed.
 *
 * A letter is `sending` (some page waits for its answer now), `waiting` (it goes out when the server answers again)
 * or `back` (the server refused it: somebody has to look at it). Each belongs to one person.
 */
const KEY = "outbox";

export const CHANGED = "outbox-changed";

/** A page that sends a letter is given this long for it, before another page sends it instead. */
export const SENT_FOR_MS = 60_000;

const page = Math.random().toString(36).slice(2);

const tab = () => {
  const known = sessionStorage.getItem("tab") ?? page;
  sessionStorage.setItem("tab", known);
  return known;
};

export const person = () => document.body.dataset.person ?? "";

export function letters() {
  return JSON.parse(localStorage.getItem(KEY) ?? "[]");
}

function keep(all) {
  localStorage.setItem(KEY, JSON.stringify(all));
  document.dispatchEvent(new Event(CHANGED));
}

/** Write a letter down as being sent by this page; a letter that is known stays where it stands. */
export function putDown(letter) {
  const all = letters().filter((other) => other.id !== letter.id);
  keep([...all, { ...letter, ...sentHere() }]);
}

const sentHere = () => ({ state: "sending", tab: tab(), by: page, since: Date.now() });

/** Change what is known of a letter. */
export function mark(id, values) {
  keep(letters().map((letter) => (letter.id === id ? { ...letter, ...values } : letter)));
}

/** This page goes: whatever page is there sends what nobody answered it. */
export function letGo() {
  const mine = (letter) => letter.state === "sending" && letter.by === page;
  if (!letters().some(mine)) return;
  keep(letters().map((letter) => (mine(letter) ? { ...letter, state: "waiting" } : letter)));
}

export const markSending = (id) => mark(id, sentHere());

/** Take a letter off: it was answered, or somebody threw it away. */
export function takeOff(id) {
  keep(letters().filter((letter) => letter.id !== id));
}

/** Take off what came back and was then sent anew from its own page. */
export function settle(key) {
  const settled = (letter) => letter.state === "back" && letter.key === key && letter.person === person();
  const left = letters().filter((letter) => !settled(letter));
  if (left.length < letters().length) keep(left);
}

/** Whether a page waits for the answer of a letter at this moment. */
function isUnderWay(letter) {
  if (letter.state !== "sending") return false;
  // A page of this tab that is gone waits no more: the browser let go of its request.
  if (letter.tab === tab() && letter.by !== page) return false;
  return Date.now() - letter.since < SENT_FOR_MS;
}

/** The letters of the person of this page that can go out now, in order. */
export function ready() {
  return letters().filter(
    (letter) => letter.person === person() && letter.state !== "back" && !isUnderWay(letter),
  );
}

/** Whether another letter of the same person is not answered yet: what comes later never overtakes it. */
export function before(id) {
  return letters().some((other) => other.person === person() && other.state !== "back" && other.id !== id);
}

/** The letters that wait or came back, of everybody; not those whose answer is awaited. */
export function lying() {
  return letters().filter((letter) => !isUnderWay(letter));
}

/** Return the letter of the same person that says the same to the same address, and is not answered yet. */
export function alike(letter) {
  const says = JSON.stringify(letter.entries);
  return letters().find(
    (other) =>
      other.person === letter.person &&
      other.url === letter.url &&
      other.state !== "back" &&
      JSON.stringify(other.entries) === says,
  );
}
