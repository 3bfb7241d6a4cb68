/** The menu of a display, pressed key by key. */
import assert from "node:assert/strict";
import { test } from "node:test";
import { Menu } from "../../src/brightcircuit/static/js/rehearsal.js";

const item = (code, stored, most) => ({
  code,
  stored,
  most,
  low: 10,
  step: 0.5,
  digits: 1,
  unit: "km/h",
  words: [],
});
const rows = () => [[item("P1", 0, 3), item("P2", 1, 3)], [{ ...item("P3", 1, 1), words: [[1, "on"]] }]];
const keys = { open: "hold SET", enter: "SET", next: "", previous: "", up: "+", down: "−", back: "MODE" };
const menu = (more = {}) =>
  new Menu({ menu: { kind: "list", wraps: false, ...keys, ...more }, groups: ["A", "B"], rows: rows() });

const after = (display, ...presses) =>
  presses.reduce((place, key) => display.press(place, key), {
    at: "closed",
    group: 0,
    item: 0,
    value: 0,
  });

test("keys lead through a list and stop at its ends, or go round", () => {
  for (const [wraps, presses, code] of [
    [false, ["hold SET"], "P1"],
    [false, ["hold SET", "+"], "P2"],
    [false, ["hold SET", "+", "+"], "P2"],
    [false, ["hold SET", "−"], "P1"],
    [true, ["hold SET", "+", "+"], "P1"],
    [true, ["hold SET", "−"], "P2"],
    [false, ["hold SET", "MODE"], ""],
    [false, ["SET"], ""],
  ]) {
    const display = menu({ wraps });
    assert.equal(display.shown(after(display, ...presses))[0], code, `${wraps} ${presses}`);
  }
});

test("a value moves by steps within its limits, and is stored by enter only", () => {
  for (const [presses, shown, stored] of [
    [["SET", "+"], "10.5 km/h", 0],
    [["SET", "+", "+", "+"], "11.5 km/h", 0],
    [["SET", "+", "+", "+", "+"], "11.5 km/h", 0],
    [["SET", "−"], "10.0 km/h", 0],
    [["SET", "+", "SET"], "10.5 km/h", 1],
  ]) {
    const display = menu();
    const place = after(display, "hold SET", ...presses);
    assert.equal(display.shown(place)[1], shown, String(presses));
    assert.equal(display.rows[0][0].stored, stored, String(presses));
  }
});

test("a tree has groups first, back leads out level by level", () => {
  const display = menu({ kind: "tree" });
  for (const [presses, code, value] of [
    [["hold SET"], "A", ""],
    [["hold SET", "+"], "B", ""],
    [["hold SET", "+", "SET"], "P3", "on"],
    [["hold SET", "+", "SET", "MODE"], "B", ""],
    [["hold SET", "+", "SET", "MODE", "MODE"], "", ""],
  ]) {
    assert.deepEqual(display.shown(after(display, ...presses)), [code, value], String(presses));
  }
});
