// What an instructor does before take-off: the course, the wind, the check.
import assert from "node:assert/strict";
import { spawn } from "node:child_process";
import path from "node:path";
import { test } from "node:test";
import { accessible, atTheDemo, complaints, counts, fits, patience, reads, root, signedIn } from "./browser.mjs";

const is = atTheDemo();

/** Does something and waits until the course was drawn anew. */
async function redrawn(page, act) {
  await page.evaluate(() => {
    document.querySelector("#course").dataset.old = "yes";
  });
  await act();
  await page.waitForFunction(() => document.querySelector("#course") && !document.querySelector("#course").dataset.old);
}

/** Where a marker stands, as its handle on the plan says. */
const placeOf = (page, what) =>
  page.locator(`g.grab[data-what="${what}"]`).evaluate((g) => [Number(g.dataset.x), Number(g.dataset.y)]);

test("a course is laid, turned into the wind, warned of a wire and turned clear of it", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "ettore@saline.example" });
  const wrong = complaints(page);
  await page.goto("/sites");
  const site = page.locator("section[aria-label=Hardstanding]");
  await site.locator("summary:has-text('Lay a course')").click();
  await site.locator("input[name=name]").first().fill("Practice of the day");
  await site.locator("select[name=template]").selectOption("five-markers");
  await site.locator("input[name=away]").fill("0");
  await site.locator("button:has-text('Lay the course')").click();
  await page.waitForURL("**/courses/*");
  await page.waitForFunction(() => /\d m\/s/.test(document.querySelector("[aria-label=Wind]")?.textContent ?? ""));
  await reads(
    page.locator("section[aria-label=Wind]"),
    /If the course is turned \d+° to the (left|right), it is behind the pilot/,
  );
  await redrawn(page, () => page.click("#into-wind"));
  await reads(page.locator("section[aria-label=Wind]"), /from behind.*It is behind the pilot/s);
  await counts(page.locator("#into-wind"), 0);
  await reads(page.locator("section[aria-label=Clearances]"), /Every drill keeps clear/);

  // A wire across the far side: every drill at the centre comes too near.
  await page.click("#add-hazard summary");
  await page.selectOption("#hz-k", "wire");
  await page.fill("#hz-n", "the pump wire");
  await page.fill("#hz-h", "6");
  await page.fill("#hz-p", "2, 12; 30, 12");
  await redrawn(page, () => page.click("button:has-text('Add the hazard')"));
  const warnings = page.locator(".warnings li");
  assert.ok((await warnings.count()) > 0);
  await reads(warnings.first(), /m to the pump wire, \d+\.\d m wanted/);
  await counts(page.locator("svg.course-plan g.warn"), 1, "drawn where it applies");
  await accessible(page, "a course with a warning");
  await reads(
    page.locator("section[aria-label=Clearances]"),
    /If the course is turned \d+° to the left, every drill is clear/,
  );
  await redrawn(page, () => page.click("#turn-clear"));
  await counts(warnings, 0);
  await counts(page.locator("svg.course-plan g.warn"), 0);

  // By hand and by key; and what cannot be is refused and changes nothing.
  const [x0, y0] = await placeOf(page, "marker:centre");
  await page.locator("svg.course-plan").scrollIntoViewIfNeeded();
  await page.evaluate(() => scrollTo(0, 0));
  const handle = await page.locator('g.grab[data-what="marker:centre"] .hit').boundingBox();
  const k = await page
    .locator("svg.course-plan")
    .evaluate((s) => (Number(s.dataset.k) * s.getBoundingClientRect().width) / s.viewBox.baseVal.width);
  const [cx, cy] = [handle.x + handle.width / 2, handle.y + handle.height / 2];
  await redrawn(page, async () => {
    await page.mouse.move(cx, cy);
    await page.mouse.down();
    await page.mouse.move(cx - 2 * k, cy - k, { steps: 5 });
    await page.mouse.up();
  });
  const [x1, y1] = await placeOf(page, "marker:centre");
  assert.ok(Math.abs(x1 - x0 + 2) < 0.11 && Math.abs(y1 - y0 - 1) < 0.11, `dragged from ${x0}, ${y0} to ${x1}, ${y1}`);
  await page.locator('g.grab[data-what="marker:centre"]').focus();
  await redrawn(page, async () => {
    await page.keyboard.press("ArrowRight");
    await page.keyboard.press("ArrowRight");
  });
  assert.deepEqual(await placeOf(page, "marker:centre"), [Math.round((x1 + 1) * 1000) / 1000, y1]);
  // the focus stays on what was moved
  await page.waitForFunction(() => document.activeElement?.getAttribute("data-what") === "marker:centre");
  await page.locator("tr:has(th:text-is('pad')) input[name=y]").fill("-4");
  await redrawn(page, () => page.locator("tr:has(th:text-is('pad')) button:has-text('Set')").click());
  await reads(page.locator("[role=alert]"), /marker pad stands 4\.0 m behind the pilot/);
  assert.ok((await placeOf(page, "marker:pad"))[1] > 0);
  await redrawn(page, () => page.locator(".plan-tools button:has-text('Undo')").click());
  assert.deepEqual(await placeOf(page, "marker:centre"), [x1, y1]);

  // A polygon where a point is wanted; the course lies as before.
  const polygon = {
    type: "FeatureCollection",
    features: [
      {
        type: "Feature",
        properties: { kind: "marker", name: "pad" },
        geometry: {
          type: "Polygon",
          coordinates: [
            [
              [13, 44.9],
              [13.001, 44.9],
              [13, 44.901],
              [13, 44.9],
            ],
          ],
        },
      },
    ],
  };
  const course = page.url();
  await page.setInputFiles("#im", {
    name: "field.geojson",
    mimeType: "application/json",
    buffer: Buffer.from(JSON.stringify(polygon)),
  });
  await page.click("button:has-text('Import')");
  await reads(
    page.locator("main"),
    /field\.geojson: feature 1 \("pad"\) is a Polygon and of kind marker; expected Point/,
  );
  await page.goto(course);
  assert.deepEqual(await placeOf(page, "marker:centre"), [x1, y1]);
  const pdf = await page.request.get(`${new URL(course).pathname}/sheet.pdf`);
  assert.equal((await pdf.body()).subarray(0, 5).toString(), "%PDF-");
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("the check on a phone is blocked by a low cell, overridden with a reason, and recorded", async () => {
  // A wind that Ginevra may fly in, whatever the hour at which this is run: the
  // meter of the demo blows as the place does.
  const chief = await signedIn(is.browser, is.demo.url);
  await chief.goto("/school");
  await chief.click("summary:has-text('Wind meter (NMEA')");
  await chief.fill("#m-addr", "");
  await chief.locator("form[action='/settings/meter'] button").click();
  await chief.waitForLoadState("networkidle");
  await chief.context().close();
  const page = await signedIn(is.browser, is.demo.url, {
    email: "ettore@saline.example",
    width: 390,
    height: 844,
    hasTouch: true,
  });
  const wrong = complaints(page);
  await page.goto("/sites");
  await page.fill("#w-mps", "2.1");
  await page.locator("form[action='/wind'] button").click();
  await page.waitForFunction(() => /2\.1 m\/s/.test(document.querySelector(".wind-now")?.textContent ?? ""));
  await page.goto("/fleet");
  await page.click("text=poiana-2");
  await page.waitForURL("**/craft/*");
  const craft = page.url();
  await page.selectOption("#b-s", { label: "Ginevra Altamor" });
  await page.click("text=Start the check");
  await page.waitForURL("**/checks/*");
  const check = page.url();
  await accessible(page, "a check that was just begun");
  assert.ok(await page.locator(".clear-button").isDisabled());
  await reads(page.locator("#item-craft-on"), /waits for the one before/);
  await counts(page.locator("#item-guards"), 0, "only what applies to this craft");
  await counts(page.locator("#item-hands-off"), 0, "nothing from the air before it is clear");
  const answers = {
    airspace: "notice 12",
    cells: "4.31 4.30 3.70 4.31",
    firmware: "07.11",
    satellites: "14",
    "return-height": "30",
    fence: "30",
    "power-left": "80",
  };
  const choices = { compass: "quiet", "home-at": "the take-off place" };
  let taps = 0;
  for (;;) {
    const item = await page.locator("#check").getAttribute("data-next");
    if (!item) break;
    const line = page.locator(`#item-${item}`);
    if (answers[item]) await line.locator("input[name=value]").fill(answers[item]);
    taps++;
    await line
      .locator(
        answers[item]
          ? "button:has-text('Note')"
          : choices[item]
            ? `button:has-text('${choices[item]}')`
            : "button:has-text('Yes')",
      )
      .first()
      .click();
    await page.waitForFunction((was) => document.querySelector("#check")?.dataset.next !== was, item);
  }
  assert.ok(taps < 29, `${taps} taps`);
  await reads(page.locator(".check-bar"), /1 blocks “clear to fly”/);
  const cells = page.locator("#item-cells");
  await reads(cells, /cell 3 rests at 3\.70 V, 14 % charged; expected 4\.06 V/);
  await reads(cells, /Next: Take a full pack/);
  assert.ok(await page.locator(".clear-button").isDisabled());
  await accessible(page, "a check that is blocked");
  await cells.locator("summary:has-text('Override')").click();
  await cells.locator("input[name=reason]").fill("one hop at two metres to show the alarm");
  await cells.locator(".override button").click();
  await page.waitForFunction(() =>
    /overridden by Ettore Scarpaval/.test(document.querySelector("#item-cells")?.textContent ?? ""),
  );
  await page.click(".clear-button");
  await page.waitForFunction(
    () =>
      /Clear to fly/.test(document.querySelector(".check-bar")?.textContent ?? "") &&
      document.querySelector(".retreat"),
  );
  await reads(page.locator(".retreat"), /let go of the sticks/);
  await page.locator("#item-hands-off input[name=value]").fill("0.3");
  await page.locator("#item-hands-off button:has-text('Note')").click();
  await page.waitForFunction(() => document.querySelector("#check")?.dataset.next === "listen");
  await accessible(page, "a check in the air");

  await page.goto(craft);
  const row = page.locator("#begin tbody tr").first();
  await reads(row, /cleared[\s\S]*Ginevra Altamor[\s\S]*Ettore Scarpaval/);
  await reads(row.locator("td").last(), /1/);
  await row.locator("a").click();
  await page.waitForURL(check);
  await reads(
    page.locator("#item-cells"),
    /answered: 4\.31 4\.30 3\.70 4\.31[\s\S]*one hop at two metres to show the alarm/,
  );

  // The next check remembers, and says what has changed.
  await page.goto(craft);
  await page.selectOption("#b-s", { label: "Nives Torcellan" });
  await page.click("text=Start the check");
  await page.waitForURL("**/checks/*");
  await reads(page.locator(".changed"), /pilot: Ginevra Altamor → Nives Torcellan/);
  await page.locator("#item-return-height button:has-text('As last time: 30 m')").click();
  await page.waitForFunction(() => /✓ right/.test(document.querySelector("#item-return-height")?.textContent ?? ""));
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("a wind meter that stops is last heard, and never the wind of now", async () => {
  const meter = spawn(
    path.join(root, "bin/maestrale"),
    ["standin", "wind", "--addr", "127.0.0.1:0", "--at", "14:00", "--hz", "5", "--seed", "4"],
    { stdio: ["ignore", "pipe", "inherit"] },
  );
  const addr = await new Promise((resolve, reject) => {
    meter.stdout.on("data", (d) => {
      const m = String(d).match(/serves on (\S+)/);
      if (m) resolve(m[1]);
    });
    meter.on("exit", (c) => reject(new Error(`the stand-in ended with ${c}`)));
  });
  const page = await signedIn(is.browser, is.demo.url);
  await page.goto("/school");
  await page.click("summary:has-text('Wind meter (NMEA')");
  await page.fill("#m-addr", addr);
  await page.click("button:has-text('Set the meter')");
  await page.waitForURL("**/school#devices");
  // The stand-in of the demo blew from before noon; this one is the afternoon's.
  const shown = () => page.locator(".wind-now").innerText();
  const end = Date.now() + patience;
  for (;;) {
    await page.reload();
    const mps = Number((await shown()).match(/^([\d.]+) m\/s/)?.[1] ?? 0);
    if (mps > 3.4) break;
    assert.ok(Date.now() < end, `the afternoon's wind never came: ${await shown()}`);
    await page.waitForTimeout(500);
  }
  assert.match(await shown(), /m\/s, gusts [\d.]+[\s\S]*10 min [\d.]+ m\/s, gusts [\d.]+ · \d+ s ago/);
  meter.removeAllListeners("exit");
  meter.kill("SIGKILL");
  // Without a reload: the page asks for the wind by itself.
  await page.waitForFunction(
    () => /wind last measured/.test(document.querySelector(".wind-now")?.textContent ?? ""),
    null,
    { timeout: patience },
  );
  assert.match(await shown(), /wind last measured \d+ (s|min) ago \(then [\d.]+ m\/s/);
  await counts(page.locator(".wind-now svg"), 0, "no arrow for a wind that is gone");
  await page.goto("/sites");
  await reads(page.locator("#meter"), /Wind meter last heard/);
  await page.goto("/course");
  await reads(page.locator("section[aria-label=Wind]"), /no recent wind measurement/);
  await accessible(page, "a page whose wind is gone");
  await page.context().close();
});

test("every view of preparation is accessible in both themes and fits from 360 to 1920", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  const wrong = complaints(page);
  await page.goto("/fleet");
  const craft = await page.locator("a[href^='/fleet/craft/']").first().getAttribute("href");
  // One whose charge is known.
  const pack = await page
    .locator("tr", { hasText: /\d %/ })
    .locator("a[href^='/fleet/packs/']")
    .first()
    .getAttribute("href");
  await page.goto("/course");
  const course = new URL(page.url()).pathname;
  await fits(page, ["/fleet", craft, pack, course, "/sites"]);
  await page.goto(pack);
  await page.locator(".figures a.why").first().focus();
  await page.keyboard.press("w");
  await page.waitForSelector("#slip h2");
  await reads(page.locator("#slip"), /Momentum theory[\s\S]*Leishman/);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("the focus stays on what was moved, also where the wind is drawn anew before the plan is", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  let asked = 0;
  await page.route("**/course**", async (route) => {
    if (route.request().method() === "POST") {
      asked += 1;
      await new Promise((late) => setTimeout(late, 1500));
    }
    await route.continue();
  });
  await page.goto("/course");
  const thing = page.locator("g.grab[data-what='marker:centre']").first();
  const answered = page.waitForResponse((r) => r.request().method() === "POST");
  await thing.evaluate((e) => (e.wasHere = true));
  await thing.focus();
  await page.keyboard.press("ArrowRight");
  await page.waitForTimeout(700);
  assert.equal(asked, 1);
  await page.evaluate(() =>
    document
      .querySelector(".wind-now")
      .dispatchEvent(new CustomEvent("htmx:afterSettle", { bubbles: true, detail: {} })),
  );
  await answered;
  await page.waitForTimeout(1500);
  const now = await page.evaluate(() => ({
    redrawn: !document.querySelector("g.grab[data-what='marker:centre']").wasHere,
    focus: document.activeElement?.getAttribute("data-what"),
  }));
  assert.deepEqual(now, { redrawn: true, focus: "marker:centre" });
  await page.context().close();
});
