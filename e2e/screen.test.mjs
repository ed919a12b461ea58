// The Fly screen trains what it says: the nose is read from the craft, the picture is true to size, slow motion is
// told.
import assert from "node:assert/strict";
import { test } from "node:test";
import { sizeWords, trueView, usual } from "../ui/scripts/fly/screen.js";
import { accessible, atTheDemo, atTheRadio, finished, fly, reads, signedIn, state, takeOff } from "./browser.mjs";

const is = atTheDemo({ gl: true });

test("a picture that fills an angle at the eye is drawn with that angle", () => {
  // Half of a screen 60 cm wide and as high, seen from 60 cm: 2 · atan(15 / 60).
  const seat = { screen_cm: 60, away_cm: 60 };
  assert.ok(Math.abs(trueView(seat, 500, 1000) - 28.07) < 0.01);
  assert.ok(trueView({ ...seat, away_cm: 120 }, 500, 1000) < trueView(seat, 500, 1000), "farther off it fills less");
  assert.equal(trueView({ screen_cm: 0, away_cm: 60 }, 500, 1000), usual);
  assert.match(sizeWords(seat, 500, 1000), /as large as at the field/);
  assert.match(sizeWords({ screen_cm: 0, away_cm: 0 }, 500, 1000), /not true/);
});

/** How much of the plan from above is drawn in the colour of the craft, by row: a dot is as wide at its head as at its
 * foot, an arrow is not. */
const ofCraft = (page) =>
  page.evaluate(() => {
    const c = document.getElementById("inset-plan");
    const { data, width, height } = c.getContext("2d").getImageData(0, 0, c.width, c.height);
    const rows = [];
    for (let y = 0; y < height; y++) {
      let n = 0;
      for (let x = 0; x < width; x++) {
        const i = 4 * (y * width + x);
        if (data[i + 3] > 200 && data[i] > 140 && data[i + 1] < 90 && data[i + 2] < 70) n++;
      }
      if (n > 0) rows.push(n);
    }
    return rows;
  });

test("a drill that trains to read the nose hides it on the plan; who asks for it flies for practice", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const wrong = [];
  page.on("pageerror", (e) => wrong.push(e.message));
  const student = new URL(page.url()).pathname;
  await atTheRadio(page, `${student}/fly?drill=nose-in-hover&side=left&aids=position-hold&seed=4`);
  await page.evaluate(() => maestraleFly.draw());
  const dot = await ofCraft(page);
  assert.ok(dot.length > 5, "the craft is on the plan");
  assert.ok(Math.abs(dot[1] - dot.at(-2)) <= 2, `a dot: ${dot}`);
  await takeOff(page);
  await fly(page, 1, { throttle: 0 });
  await page.keyboard.press("n");
  await reads(page.locator("#f-say"), /the run is practice/);
  const arrow = await ofCraft(page);
  assert.ok(arrow.at(-2) > arrow[1] + 3 || arrow[1] > arrow.at(-2) + 3, `an arrow: ${arrow}`);
  // The fence holds it in, and is said.
  await page.click(".fly-more summary");
  await page.selectOption("#f-fence", "15/8");
  await reads(page.locator("#f-say"), /Fence: 15 m away/);
  await fly(page, 12, { throttle: 0, pitch: 1 });
  assert.ok((await state(page, "y")) < 16.5, "the fence lets it no farther");
  await fly(page, 6, { throttle: -1, pitch: 0 });
  await finished(page);
  await reads(page.locator("#r-counts"), /the nose shown from above/);
  // A drill with the tail to the pilot shows it at once.
  await atTheRadio(page, `${student}/fly?drill=hover-tail-in&side=none&aids=position-hold&seed=4`);
  assert.ok(await page.locator("#f-nose").isHidden());
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("the seat is asked once and makes the picture true; slow pictures are told", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const student = new URL(page.url()).pathname;
  const at = `${student}/fly?drill=hover-tail-in&side=none&aids=position-hold&seed=4`;
  await atTheRadio(page, at);
  await page.click(".fly-more summary");
  await reads(page.locator("#f-size"), /The size is not true/);
  await page.fill("#f-screen", "34,5");
  await page.fill("#f-away", "60");
  await page.locator("#f-away").blur();
  await reads(page.locator("#f-size"), /as large as at the field: \d+°/);
  await atTheRadio(page, at);
  await page.click(".fly-more summary");
  assert.equal(await page.locator("#f-screen").inputValue(), "34.5");
  // Pictures that come twice a second let time pass at half its speed and less.
  await page.evaluate(() => {
    globalThis.maestraleHeld = false;
    const real = globalThis.requestAnimationFrame.bind(globalThis);
    globalThis.requestAnimationFrame = (f) => setTimeout(() => real(f), 600);
  });
  await reads(page.locator("#f-slow"), /time passes at \d+ % of its speed/);
  await page.context().close();
});

test("the four quarters: a craft that is turned by hand, keys or slider says where a push takes it", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  await page.goto("/fly/quarters");
  await reads(page.locator("#q-quarter"), /tail toward you/);
  await accessible(page, "the four quarters");
  const b = await page.locator("#q-view").boundingBox();
  const [x, y] = [b.x + b.width / 2, b.y + (b.height * 150) / 330];
  await page.mouse.move(x, y - 60);
  await page.mouse.down();
  await page.mouse.move(x, y + 60, { steps: 8 });
  await page.mouse.up();
  await reads(page.locator("#q-quarter"), /nose toward you/);
  await reads(page.locator("tr[data-stick=left]"), /takes it to your right/);
  await reads(page.locator("#q-rule"), /push toward the side that it drifts to/);
  for (let i = 0; i < 6; i++) await page.keyboard.press("ArrowRight");
  await reads(page.locator("#q-quarter"), /nose to your left/);
  await reads(page.locator("tr[data-stick=forward]"), /takes it to your left/);
  await page.context().close();
});
