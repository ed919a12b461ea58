// How soon each main screen shows what matters, how soon it answers, and how much it jumps, with a processor four times
// slower than this one. Not a test; "make vitals" prints the table and writes docs/tables/vitals.md.
import { writeFile } from "node:fs/promises";
import path from "node:path";
import { launch, root, signedIn, startDemo } from "./browser.mjs";

const demo = await startDemo();
const browser = await launch();

/** Watches a page from its first byte on. */
function watch() {
  const seen = (window.vitals = { lcp: 0, cls: 0, inp: 0 });
  const on = (type, take, more = {}) =>
    new PerformanceObserver((l) => l.getEntries().forEach(take)).observe({ type, buffered: true, ...more });
  on("largest-contentful-paint", (e) => (seen.lcp = Math.max(seen.lcp, e.startTime)));
  on("layout-shift", (e) => {
    if (!e.hadRecentInput) seen.cls += e.value;
  });
  on("event", (e) => (seen.inp = Math.max(seen.inp, e.interactionId ? e.duration : 0)), { durationThreshold: 16 });
}

/** What somebody does first: opens and closes the jump, opens what is folded, and moves on by keyboard. */
async function use(page) {
  await page.keyboard.press("/");
  await page.waitForTimeout(150);
  await page.keyboard.press("Escape");
  const fold = page.locator("main summary >> visible=true").first();
  if (await fold.count()) {
    await fold.click();
    await page.waitForTimeout(100);
    await fold.click();
  }
  for (let i = 0; i < 3; i++) await page.keyboard.press("Tab");
  await page.waitForTimeout(250);
}

const median = (list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)];

try {
  const page = await signedIn(browser, demo.url, { email: "livia@saline.example" });
  await page.goto("/students");
  const student = await page.locator("main a[href^='/students/']").first().getAttribute("href");
  await page.goto(student);
  const attempt = await page.locator("main a[href^='/attempts/']").first().getAttribute("href");
  const gate = await page.locator("main a[href*='/gates/']").first().getAttribute("href");
  const screens = [["Today", "/today"], ["Students", "/students"], ["A student", student], ["Debrief", attempt],
    ["A gate", gate], ["Lesson", `${student}/lesson`], ["Progress", `${student}/progress`], ["Pad of a device", "/pad"],
    ["Fly", "/fly"], ["Trainers", `${student}/trainers`], ["Course", "/course"], ["Fleet", "/fleet"],
    ["Programmes", "/programmes"], ["A drill", "/programmes/drills/nose-in-hover"], ["Records", "/records"],
    ["The season", "/records/season"], ["School", "/school"]]; // prettier-ignore
  const cdp = await page.context().newCDPSession(page);
  await cdp.send("Emulation.setCPUThrottlingRate", { rate: 4 });
  await page.addInitScript(watch);
  const rows = [];
  for (const [name, at] of screens) {
    const runs = [];
    for (let i = 0; i < 5; i++) {
      await page.goto(at, { waitUntil: "load" });
      await page.waitForTimeout(300);
      await use(page);
      runs.push(await page.evaluate(() => window.vitals));
    }
    const of = (key) => median(runs.map((r) => r[key]));
    rows.push(`| ${name} | ${Math.round(of("lcp"))} | ${Math.round(of("inp"))} | ${of("cls").toFixed(3)} |`);
    console.log(rows.at(-1));
  }
  await writeFile(
    path.join(root, "docs/tables/vitals.md"),
    `# How soon each screen shows, answers and stands still

Medians of five loads of the sample school at 1280 × 800, with a processor four times slower than that of the machine that
measured. Asked are 1,000 ms for the largest paint, 100 ms for the slowest answer to a key or a click, and 0.02 for what
jumps. Made by \`make vitals\`.

| screen | largest paint, ms | slowest answer, ms | layout that jumps |
|---|---|---|---|
${rows.join("\n")}
`,
  );
} finally {
  await browser.close();
  await demo.stop();
}
