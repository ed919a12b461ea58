// How fast the simulator flies in Chromium, against real time: a minute in gusts on
// moving sticks, three times. Not a test; run it with "node e2e/bench.mjs".
import { launch, signedIn, startDemo } from "./browser.mjs";

const demo = await startDemo();
const browser = await launch();
const page = await signedIn(browser, demo.url, { email: "nives@saline.example" });
const fly = `${new URL(page.url()).pathname}/fly?drill=free&wind=6@180&gusts=moderate&seed=9`;
const open = [];
for (let i = 0; i < 3; i++) {
  const began = performance.now();
  await page.goto(fly);
  await page.waitForFunction(() => !document.querySelector("#f-start").disabled);
  open.push(Math.round(performance.now() - began));
}
console.log(`the Fly screen can be used after ${open.join(", ")} ms (the first with nothing cached)`);
const factors = await page.evaluate(() => {
  const c = JSON.parse(document.querySelector("#fly").dataset.config);
  const out = new Float64Array(c.fields.length),
    found = [];
  for (let n = 0; n < 12; n++) {
    maestraleSim.begin(c.numbers, c.names, c.spec);
    const began = performance.now();
    for (let i = 0; i < 6000; i++) {
      if (i === 20) maestraleSim.happen("arm", "");
      maestraleSim.reading(
        1,
        i < 60 ? -1 : i < 300 ? 0.6 : 0,
        Math.sin(i / 90),
        0.4 * Math.sin(i / 70),
        0.4 * Math.cos(i / 50),
        0,
        0,
        0,
        out,
      );
    }
    found.push(Math.round(60_000 / (performance.now() - began)));
  }
  return found;
});
console.log(`${factors.join(", ")} times real time, a reading (10 ms) a call`);
await browser.close();
await demo.stop();
