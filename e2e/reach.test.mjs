// What anybody can reach: few taps on a phone, a page that is zoomed, colours that the system forces, and the order in
// which a page is read aloud.
import assert from "node:assert/strict";
import { test } from "node:test";
import { atTheDemo, signedIn } from "./browser.mjs";

const is = atTheDemo();
const phone = { email: "mirta@saline.example", width: 390, height: 844, hasTouch: true, isMobile: true };

/** A page on a phone that counts what is tapped on it. */
async function atHand() {
  const page = await signedIn(is.browser, is.demo.url, phone);
  let taps = 0;
  const tap = async (/** @type {any} */ what) => {
    const target = typeof what === "string" ? page.locator(what).first() : what;
    await target.scrollIntoViewIfNeeded();
    await target.tap();
    taps++;
  };
  return {
    page,
    tap,
    /** Says how many taps it took, and begins anew on the first page. */
    async took() {
      const n = taps;
      taps = 0;
      await page.goto("/");
      return n;
    },
  };
}

test("what is done often takes three taps on a phone, counted from the first page", async () => {
  const { page, tap, took } = await atHand();
  const counted = {};

  await tap(".places a:has-text('Students')");
  await tap("main table a[href^='/students/']");
  await tap("a[href$='/lesson'] >> visible=true");
  await page.waitForSelector("h1:has-text('Next lesson')");
  counted["next lesson"] = await took();

  await tap(".more-places summary");
  await tap(".more-places a[href='/records']");
  await page.waitForSelector("#near-h");
  counted["who is close to a gate"] = await took();

  await tap(".more-places summary");
  await tap(".more-places a[href='/fleet']");
  await tap("main a[href^='/fleet/craft/']");
  await page.waitForSelector("button:has-text('Start the check')");
  counted["check a craft"] = await took();

  await tap(".places a:has-text('Today')");
  await tap("main a.go:has-text('Mark') >> visible=true");
  await page.waitForSelector("#pin-form:not([hidden]), #pad-mark:not([hidden])");
  counted.mark = await took();

  await tap(".places a:has-text('Today')");
  await tap("button:has-text('Landed') >> visible=true");
  await page.waitForLoadState("networkidle");
  counted.land = await took();

  await tap(".places a:has-text('Today')");
  await tap("summary:has-text('Everyone hold')");
  await tap("button:has-text('Hold everyone now')");
  await page.waitForSelector("text=Everyone holds");
  counted["hold everyone"] = await took();
  await page.goto("/today");
  await tap("button:has-text('Go on')");
  await page.waitForSelector("text=Everyone holds", { state: "hidden" });
  await took();

  await tap(".places a:has-text('Today')");
  await tap(".marked-last summary");
  await tap(".marked-last button:has-text('a gust')");
  await page.waitForSelector(".caution:has-text('a gust')");
  counted["void an attempt that was marked before"] = await took();

  for (const [what, taps] of Object.entries(counted)) assert.ok(taps <= 3, `${what} takes ${taps} taps`);
  await page.context().close();
});

/** The main screens of an instructor. */
async function screens(page) {
  await page.goto("/students");
  const student = await page.locator("main a[href^='/students/']").first().getAttribute("href");
  await page.goto(student);
  const attempt = await page.locator("main a[href^='/attempts/']").first().getAttribute("href");
  const gate = await page.locator("main a[href*='/gates/']").first().getAttribute("href");
  return ["/today", "/students", student, attempt, gate, `${student}/lesson`, `${student}/progress`, "/fly", "/course",
    "/fleet", "/programmes", "/programmes/drills/nose-in-hover", "/records", "/records/season", "/school", "/account",
    "/how", "/how/today"]; // prettier-ignore
}

test("nothing runs out of a page at 200 % and at 320 pixels", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "mirta@saline.example" });
  for (const path of await screens(page)) {
    for (const [width, height] of [
      [640, 400],
      [320, 640],
    ]) {
      // prettier-ignore
      await page.setViewportSize({ width, height });
      await page.goto(path);
      const over = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
      assert.ok(over <= 0, `${path} at ${width} px runs out by ${over} px`);
    }
  }
  await page.context().close();
});

test("with forced colours every button keeps an edge, and with less motion nothing moves by itself", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "mirta@saline.example" });
  await page.emulateMedia({ forcedColors: "active", reducedMotion: "reduce" });
  for (const path of await screens(page)) {
    await page.goto(path);
    const bare = await page.evaluate(() =>
      [...document.querySelectorAll("button, .go, .main-button, .second-button, input, select, textarea")]
        .filter((e) => e instanceof HTMLElement && e.offsetParent !== null && e.getClientRects().length > 0)
        .filter((e) => !e.matches(".plain, [type=hidden], [type=checkbox], [type=radio], [type=range], .sr"))
        .filter((e) => {
          const s = getComputedStyle(e);
          return Number.parseFloat(s.borderTopWidth) === 0 && s.outlineStyle === "none";
        })
        .map((e) => e.outerHTML.slice(0, 90)),
    );
    assert.deepEqual(bare, [], `${path} has buttons without an edge`);
    const moving = await page.evaluate(() =>
      document
        .getAnimations()
        .filter((a) => a.playState === "running" && (a.effect?.getComputedTiming().duration ?? 0) > 50)
        .map((a) => String(a.effect?.target?.className)),
    );
    assert.deepEqual(moving, [], `${path} moves`);
  }
  await page.context().close();
});

/** The headings of a page in the order in which they are read aloud. */
async function headings(page) {
  const cdp = await page.context().newCDPSession(page);
  const { nodes } = await cdp.send("Accessibility.getFullAXTree");
  const byId = new Map(nodes.map((n) => [n.nodeId, n]));
  const out = [];
  const walk = (n) => {
    if (!n) return;
    if (!n.ignored && n.role?.value === "heading") {
      const level = n.properties?.find((p) => p.name === "level")?.value.value;
      out.push({ level, name: n.name?.value ?? "" });
    }
    for (const id of n.childIds ?? []) walk(byId.get(id));
  };
  walk(nodes.find((n) => !n.parentId));
  await cdp.detach();
  return out;
}

test("a page is read aloud from its title on, in the order seen, without a gap in its headings", async () => {
  const page = await signedIn(is.browser, is.demo.url, phone);
  const paths = await screens(page);
  for (const path of paths) {
    await page.goto(path);
    const heard = await headings(page);
    assert.equal(heard[0]?.level, 1, `${path} begins with ${JSON.stringify(heard[0])}`);
    assert.equal(heard.filter((h) => h.level === 1).length, 1, `${path} has one title`);
    heard.forEach((h, i) => {
      assert.ok(i === 0 || h.level <= heard[i - 1].level + 1, `${path}: ${JSON.stringify(heard.slice(i - 1, i + 1))}`);
    });
    const seen = await page.evaluate(() =>
      [...document.querySelectorAll("main h1, main h2, main h3")]
        .filter((e) => e instanceof HTMLElement && e.offsetParent !== null)
        .map((e) => ({ words: e.textContent.trim(), top: Math.round(e.getBoundingClientRect().top + scrollY) })),
    );
    seen.forEach((h, i) => {
      assert.ok(
        i === 0 || h.top >= seen[i - 1].top - 2,
        `${path}: “${h.words}” is seen before “${seen[i - 1]?.words}”`,
      );
    });
  }
  await page.goto(paths[2]);
  const names = (await headings(page)).map((h) => h.name);
  const order = ["What next", "Latest attempts", "Gates"].map((n) => names.findIndex((x) => x.startsWith(n)));
  assert.ok(
    order.every((at, i) => at > 0 && (i === 0 || at > order[i - 1])),
    `${names}`,
  );
  await page.context().close();
});

test("what keeps a page up to date may come late, or not at all", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "ettore@saline.example", serviceWorkers: "block" });
  let letGo;
  const until = new Promise((done) => (letGo = done));
  let there = true;
  await page.route("**/static/live.js*", async (route) => {
    await until;
    return there ? route.continue() : route.abort();
  });
  await page.goto("/students");
  await page.keyboard.press("/");
  await page.fill("#jump-q", "Amina");
  letGo(); // what was typed meanwhile is looked for
  const hit = page.locator("#jump-hits a:has-text('Amina Corvelli')").first();
  await hit.waitFor();
  there = false;
  await page.goto(await hit.getAttribute("href"));
  await page.goto(await page.locator("main a[href^='/attempts/']").first().getAttribute("href"));
  await page.locator("main a.why:visible").first().click();
  await page.waitForURL(/why/); // its own page stands in for the slip
  await page.context().close();
});
