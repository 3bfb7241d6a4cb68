/** Each form counts once, in order, and nothing that was acknowledged is lost. */
import assert from "node:assert/strict";
import { test } from "node:test";
import { open, until } from "./page.mjs";

const FORM = `<div class="trouble" hidden></div>
  <form method="post" action="/jobs/1/trace/"><input type="hidden" name="csrfmiddlewaretoken" value="t">
  <input name="value" value="4.18"><input type="file" name="photo"><button>Save</button></form>`;
const letters = () => JSON.parse(localStorage.getItem("outbox") ?? "[]");

/** A fresh copy of the module, as every page load has one. */
let loads = 0;
async function started(answer, before = [], page = FORM) {
  const asked = open(page, { answer });
  localStorage.setItem("outbox", JSON.stringify(before));
  const { attachOutbox } = await import(`../../src/brightcircuit/static/js/outbox.js?${(loads += 1)}`);
  const shown = [];
  attachOutbox((html) => shown.push(html));
  return { asked, shown };
}

const send = () => {
  const event = new window.Event("submit", { bubbles: true, cancelable: true });
  Object.defineProperty(event, "submitter", { value: null });
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
    localStorage.setItem("draft:7:reading", '{"at":5}');
    send();
    await until(idle);
    assert.equal(localStorage.getItem("draft:7:reading") !== null, refused);
  }
});

test("without a server it waits, and the next one waits behind it", async () => {
  const { asked } = await started(() => null);
  send();
  await until(idle);
  send();
  await until(idle);
  assert.equal(letters().length, 2);
  assert.notEqual(letters()[0].id, letters()[1].id);
  assert.equal(asked.length, 1, "what comes later never overtakes what waits");
});

test("what waits goes in order, each with the id it was given", async () => {
  const { asked } = await started(() => ({ to: "/jobs/2/set/" }), [letter("a"), letter("b")]);
  await until(() => !letters().length);
  assert.deepEqual(
    asked.map((one) => one.headers["X-Sent-Once"]),
    ["a", "b"],
  );
});

test("sending stops where somebody has to look, and keeps what is not settled", async () => {
  for (const [answer, left] of [
    [{ to: "/x/", refused: true }, ["b"]],
    [{ html: "422" }, ["b"]],
    [{ sign_in: "/login/" }, ["a", "b"]],
    [{ other: "Ravi" }, ["a", "b"]],
    [null, ["a", "b"]],
  ]) {
    const { asked } = await started(() => answer, [letter("a"), letter("b")]);
    await until(() => asked.length === 1);
    for (let turn = 0; turn < 20; turn += 1) await new Promise((next) => setImmediate(next));
    assert.deepEqual(
      letters().map((one) => one.id),
      left,
      JSON.stringify(answer),
    );
    assert.equal(asked.length, 1);
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
    await new Promise((next) => setImmediate(next));
    window.dispatchEvent(new window.Event("online"));
    await until(() => !letters().length);
    for (let turn = 0; turn < 20; turn += 1) await new Promise((next) => setImmediate(next));
    assert.equal(localStorage.getItem("draft:7:a"), left);
  }
});
