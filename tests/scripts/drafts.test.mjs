/** What is typed stays in the browser until the server has confirmed it. */
import assert from "node:assert/strict";
import { test } from "node:test";
import { attachDrafts, clearDraft, draftKey, keptForms } from "../../src/brightcircuit/static/js/drafts.js";
import { open } from "./page.mjs";

const FORM = `
  <form method="post"><input type="hidden" name="action" value="reading">
    <input type="hidden" name="test" value="volts:a">
    <input name="value" value=""><textarea name="note"></textarea>
    <input type="checkbox" name="seen" value="smoke"><input type="checkbox" name="gate" value="wheel_up">
    <input type="password" name="word"></form>`;

const typed = (form, name, value) => {
  form.elements.namedItem(name).value = value;
  form.dispatchEvent(new window.Event("input"));
};

test("what was typed stands there again, cautions and passwords never", () => {
  open(FORM);
  attachDrafts();
  let [form] = keptForms();
  form.elements.namedItem("seen").checked = true;
  form.elements.namedItem("gate").checked = true;
  form.elements.namedItem("word").value = "secret";
  typed(form, "value", "4,18 V");
  const kept = { ...localStorage };
  assert.ok(!JSON.stringify(kept).includes("secret"));
  open(FORM);
  for (const [key, value] of Object.entries(kept)) localStorage.setItem(key, value);
  attachDrafts();
  [form] = keptForms();
  assert.equal(form.elements.namedItem("value").value, "4,18 V");
  assert.equal(form.elements.namedItem("seen").checked, true);
  assert.equal(form.elements.namedItem("gate").checked, false);
  assert.match(form.querySelector(".draft").textContent, /not saved yet/);
});

test("a draft of another test is not put into this one", () => {
  open(FORM);
  attachDrafts();
  typed(keptForms()[0], "value", "4.18");
  const kept = { ...localStorage };
  open(FORM.replace("volts:a", "volts:b"));
  for (const [key, value] of Object.entries(kept)) localStorage.setItem(key, value);
  attachDrafts();
  assert.equal(keptForms()[0].elements.namedItem("value").value, "");
});

test("a confirmed draft goes, unless something was typed after it was sent", () => {
  for (const [after, left] of [
    [-1, 1],
    [0, 0],
    [1, 0],
  ]) {
    open(FORM);
    attachDrafts();
    const [form] = keptForms();
    typed(form, "value", "4.18");
    const key = draftKey(form);
    const { at } = JSON.parse(localStorage.getItem(key));
    clearDraft(key, at + after);
    assert.equal(localStorage.length, left, `sent ${after} ms after it was typed`);
  }
});

test("each form has a draft of its own, and each person", () => {
  open(FORM + FORM + '<form method="post" data-keep="photo"></form><form method="post" data-plain></form>');
  const keys = keptForms().map(draftKey);
  assert.equal(new Set(keys).size, 3);
  assert.ok(keys.every((key) => key.startsWith("draft:7:")));
  assert.equal(keys[2], "draft:7:photo#");
});

test("the key of a draft holds what the form is about, and not how its page stood", () => {
  const hidden = (name, value) => `<input type="hidden" name="${name}" value="${value}">`;
  const keyOf = (fields, keep = "") => {
    open(`<form method="post" ${keep}>${fields}<input name="complaint"></form>`);
    return draftKey(keptForms()[0]);
  };
  for (const [name, apart] of [
    ["bike", true],
    ["danger", true],
    ["test", true],
    ["version", false],
    ["csrfmiddlewaretoken", false],
  ]) {
    for (const keep of ["", 'data-keep="new-job"']) {
      const [one, two] = ["fern", "otter"].map((value) => keyOf(hidden(name, value), keep));
      assert.equal(one !== two, apart, `${name} ${keep}`);
    }
  }
});
