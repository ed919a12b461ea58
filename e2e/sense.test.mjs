// What the reflex trainer knows of the device: a stick that rests off its middle, a slow
// display. Pure functions, run without a browser.
import assert from "node:assert/strict";
import { test } from "node:test";
import { Frames, Rest } from "../ui/scripts/fly/reflex-sense.js";

test("a stick that rests off its middle is taken from there, one that is held is not", () => {
  const r = new Rest();
  let said = null;
  for (let t = 0; t <= 2000 && !said; t += 16) said = r.learn({ pitch: 0.24, roll: 0.01, yaw: 0 }, t);
  assert.match(said, /rests off its middle/);
  const s = r.from({ pitch: 0.24, roll: 0.01, yaw: 0 });
  assert.ok(Math.hypot(s.pitch, s.roll, s.yaw) < 1e-9);
  assert.ok(Math.abs(r.from({ pitch: 1, roll: 0, yaw: 0 }).pitch - 0.76) < 1e-9);
  const held = new Rest();
  for (let t = 0; t <= 3000; t += 16) said = held.learn({ pitch: 0.9, roll: 0, yaw: 0 }, t);
  assert.match(said, /let go of the sticks/);
  assert.equal(held.at.pitch, 0);
  const wanders = new Rest();
  for (let t = 0; t <= 3000; t += 16)
    said = wanders.learn({ pitch: 0.25 + 0.1 * Math.sin(t / 200), roll: 0, yaw: 0 }, t);
  assert.match(said, /wanders/);
});

test("a display of 30 pictures a second says how far a reaction is off, one of 60 does not", () => {
  for (const [hz, words] of [
    [30, /± 0\.02 s/],
    [60, /^$/],
  ]) {
    const f = new Frames();
    for (let i = 1; i < 100; i++) assert.equal(f.stalled(5e6 + (i * 1000) / hz), false);
    assert.match(f.words(), words);
    assert.equal(f.stalled(5e6 + 99_000 / hz + 600), true);
  }
});
