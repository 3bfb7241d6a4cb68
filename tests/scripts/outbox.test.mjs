/** Each form counts once, in order, and nothing that was acknowledged is lost. */
import assert from "node:assert/strict";
import { test } from "node:test";
import { open, until } from "./page.mjs";

const FORM = `<aside data-outbox><p data-trouble hidden></p>
  <details data-letters hidden><summary></summary><ul></ul><button data-send-now></button></details></aside>
  <form method="post" action="/jobs/1/trace/"><input type="hidden" name="csrfmiddlewaretoken" value="t">
  <input name="value" value="4.18"><input type="file" name="photo"><button>Save</button></form>`;
const letters = () => JSON.parse(localStorage.getItem("outbox") ?? "[]");

/** A fresh copy of the module, as every page load has one. */
let loads = 0;
async function started(answer, before = [], page = FORM) {
  const asked = open(page, { answer });
  localStorage.setItem("outbox", JSON.stringify(before));
  const { attachLetters, attachOutbox } = await import(
    `../../src/brightcircuit/static/js/outbox.js?${(loads += 1)}`
  );
  const shown = [];
  attachLetters();
  attachOutbox((html) => shown.push(html));
  return { asked, shown };
}

const send = (submitter = null) => {
  const event = new window.Event("submit", { bubbles: true, cancelable: true });
  Object.defineProperty(event, "submitter", { value: submitter });
  document.querySelector("form").dispatchEvent(event);
  return event;
};
const idle = () => !document.querySelector("form").inert;
const letter = (id, page = "/jobs/2/set/") => ({
  id,
  url: "http://shop.test/jobs/2/set/",
  entries: [["value", id]],
  key: `draft:7:${id}`,
  page,
  at: 5,
  person: "7",
});

test("a form is sent once, with an id and who sent it, and its token not among the fields", async () => {
  const { asked, shown } = await started(() => ({ html: "again", headers: [["Content-Type", "text/html"]] }));
  assert.ok(send().defaultPrevented);
  send();
  await until(idle);
  assert.equal(asked.length, 1, "a second press while it is being sent counts for nothing");
  assert.match(asked[0].headers["X-Sent-Once"], /^[0-9a-f]{32}$/);
  assert.equal(asked[0].headers["X-Person"], "7");
  assert.equal(asked[0].body.has("csrfmiddlewaretoken"), false);
  assert.equal(asked[0].body.get("value"), "4.18");
  assert.deepEqual(shown, ["again"]);
});

test("a form that is refused keeps what was typed, one that is taken does not", async () => {
  for (const refused of [true, false]) {
    const page = FORM.replace("<form", '<form data-keep="reading"');
    await started(() => ({ to: "/x/", refused }), [], page);
    localStorage.setItem("draft:7:reading#", '{"at":5}');
    send();
    await until(idle);
    assert.equal(localStorage.getItem("draft:7:reading#") !== null, refused);
  }
});

test("without a server it waits, its button says so, and a second press makes no second letter", async () => {
  const { asked } = await started(() => null);
  const button = document.querySelector("form button");
  send(button);
  assert.equal(button.textContent, "Sending…");
  await until(() => button.textContent === "Waiting…");
  send(button);
  for (let turn = 0; turn < 20; turn += 1) await new Promise((next) => setImmediate(next));
  assert.equal(letters().length, 1);
  assert.equal(asked.length, 1);
  assert.ok(!idle(), "the form rests until its letter is answered or thrown away");
});

test("what is sent from a page that was loaded anew before the answer came is the same letter", async () => {
  const { asked } = await started(() => null);
  send();
  await until(() => letters()[0]?.state === "waiting");
  const { asked: again } = await started(() => null, letters());
  send();
  await until(() => again.length > 0);
  assert.deepEqual([letters().length, again[0].headers["X-Sent-Once"]], [1, asked[0].headers["X-Sent-Once"]]);
});

test("another text of the same form, or to another address, goes behind the first", async () => {
  const TO = 'action="/jobs/1/trace/"';
  for (const [other, values] of [
    [FORM.replace("4.18", "4.21"), ["4.21", "4.18"]],
    [FORM.replace(TO, 'action="/jobs/1/set/"'), ["4.18", "4.18"]],
  ]) {
    await started(() => null, [], other);
    send();
    await until(() => letters()[0]?.state === "waiting");
    const { asked } = await started(() => null, letters());
    send();
    await until(() => letters().length === 2);
    for (let turn = 0; turn < 20; turn += 1) await new Promise((next) => setImmediate(next));
    const [first, second] = letters();
    assert.notEqual(first.id, second.id);
    assert.deepEqual([first.entries[0][1], second.entries[0][1]], values);
    assert.ok(!asked.some((one) => one.headers["X-Sent-Once"] === second.id), "it never overtakes the first");
  }
});

test("what somebody else typed waits for them, and holds nobody up", async () => {
  const others = { ...letter("theirs"), person: "8", name: "R. Quill" };
  const { asked } = await started(() => ({ to: "/x/" }), [others, letter("mine")]);
  await until(() => letters().length === 1);
  assert.deepEqual(
    asked.map((one) => one.headers["X-Sent-Once"]),
    ["mine"],
  );
  const bar = document.querySelector("[data-letters]");
  assert.ok(!bar.hidden);
  assert.match(bar.textContent, /1 form waiting · R\. Quill/);
  assert.match(bar.textContent, /goes when R\. Quill has signed in here/);
});

test("a letter is thrown away after it was asked for twice, and its form is free again", async () => {
  await started(() => null);
  send();
  await until(() => letters()[0]?.state === "waiting");
  const discard = () => [...document.querySelectorAll("[data-letters] li button")].at(-1);
  discard().click();
  assert.equal(letters().length, 1);
  assert.match(discard().textContent, /for good/);
  discard().click();
  assert.equal(letters().length, 0);
  assert.ok(document.querySelector("[data-letters]").hidden && idle());
});

test("a form that is at work already comes again later under its own id", async () => {
  const { asked } = await started((count) => (count === 1 ? { under_way: true } : { to: "/x/" }));
  send();
  await until(() => letters()[0]?.state === "waiting");
  window.dispatchEvent(new window.Event("online"));
  await until(() => !letters().length);
  assert.equal(new Set(asked.map((one) => one.headers["X-Sent-Once"])).size, 1);
});

test("a password is sent and never written down", async () => {
  const page = FORM.replace("<button>", '<input type="password" name="word" value="secret"><button>');
  const { asked } = await started(() => null, [], page);
  send();
  await until(idle);
  assert.deepEqual([asked.length, letters().length], [1, 0]);
  assert.ok(!JSON.stringify({ ...localStorage }).includes("secret"));
});

test("what waits goes in order, each with the id it was given", async () => {
  const { asked } = await started(() => ({ to: "/jobs/2/set/" }), [letter("a"), letter("b")]);
  await until(() => !letters().length);
  assert.deepEqual(
    asked.map((one) => one.headers["X-Sent-Once"]),
    ["a", "b"],
  );
});

test("what comes back is kept and holds nobody up; a server or a sign-in that is gone stops everything", async () => {
  for (const [answer, left, askedFor] of [
    [{ to: "/x/", refused: true }, "a back, b back", 2],
    [{ html: "422" }, "a back, b back", 2],
    [{ sign_in: "/login/" }, "a waiting, b ", 1],
    [{ other: "Ravi" }, "a waiting, b ", 1],
    [null, "a waiting, b ", 1],
  ]) {
    const { asked } = await started(() => answer, [letter("a"), letter("b")]);
    await until(() => asked.length === askedFor);
    for (let turn = 0; turn < 20; turn += 1) await new Promise((next) => setImmediate(next));
    const states = letters().map((one) => `${one.id} ${one.state ?? ""}`);
    assert.equal(states.join(", "), left, JSON.stringify(answer));
    assert.equal(asked.length, askedFor);
  }
});

test("a draft goes only when the server led on without refusing", async () => {
  for (const [refused, left] of [
    [false, null],
    [true, '{"at":5}'],
  ]) {
    open(FORM);
    const { asked } = await started((count) => (count === 1 ? null : { to: "/x/", refused }), [letter("a")]);
    localStorage.setItem("draft:7:a", '{"at":5}');
    await until(() => asked.length === 1);
    await until(() => letters()[0].state === "waiting");
    window.dispatchEvent(new window.Event("online"));
    await until(() => letters().every((one) => one.state === "back"));
    for (let turn = 0; turn < 20; turn += 1) await new Promise((next) => setImmediate(next));
    assert.equal(localStorage.getItem("draft:7:a"), left);
  }
});
