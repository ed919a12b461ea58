// What every browser test shares: the browser, the demo's server, and signing in.
import assert from "node:assert/strict";
import { execFileSync, spawn } from "node:child_process";
import { existsSync, statSync } from "node:fs";
import { chmod, mkdir, mkdtemp, rename, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { after, before } from "node:test";
import axe from "axe-core";
import { chromium } from "playwright-core";

export const root = path.resolve(import.meta.dirname, "..");
/** How long to wait for anything, in milliseconds: a shared machine can be slow. */
export const patience = Number(process.env.PATIENCE_MS) || 120_000;
export const password = "vento-da-maestro";

/** Browsers that draw WebGL in software. Their pages are drawn in coarse pixels, a sixteenth as many: what a test
 * asks of them stays where it is, and drawing takes most of a test's time otherwise. */
const coarse = new WeakSet();

/** With gl it draws WebGL in software, slowly. */
export async function launch({ gl = false, args = [], env = undefined } = {}) {
  const browser = await chromium.launch({
    executablePath: "/usr/bin/chromium",
    env,
    timeout: patience,
    args: [
      ...(gl ? ["--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"] : ["--disable-gpu"]),
      "--no-sandbox",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
      "--disable-quic",
      "--no-first-run",
      ...args,
    ],
  });
  if (gl) coarse.add(browser);
  return browser;
}

/** Starts the demo in a folder of its own and on a free port. */
export async function startDemo() {
  const data = await mkdtemp(path.join(tmpdir(), "maestrale-e2e-"));
  await chmod(data, 0o755);
  const from = await loaded();
  // Who owns what is kept: PostgreSQL reads no folder of somebody else.
  if (from) execFileSync("cp", ["-a", `${from}/.`, data]);
  return start("demo", data);
}

/** A folder with the sample school as this build of the program loads it today. A server takes three seconds to load
 * it, and each file of tests has a server of its own, so it is loaded once. It is undefined where another file of
 * tests is loading it and does not come to an end: the demo then loads its own. */
async function loaded() {
  const built = statSync(path.join(root, "bin/maestrale"));
  const day = new Date().toISOString().slice(0, 10);
  const name = `maestrale-e2e-loaded-${process.getuid()}-${day}-${built.size}-${Math.round(built.mtimeMs)}`;
  const there = path.join(tmpdir(), name);
  if (existsSync(there)) return there;
  const fresh = `${there}.new`;
  try {
    await mkdir(fresh, { mode: 0o755 });
  } catch {
    for (let tries = 0; tries < 200 && !existsSync(there); tries++) await new Promise((r) => setTimeout(r, 100));
    return existsSync(there) ? there : undefined;
  }
  const server = await start("demo", fresh);
  await server.end();
  await rename(fresh, there);
  return there;
}

/** Starts a server without a school, and says the address of its setup page. */
export async function startEmpty() {
  const data = await mkdtemp(path.join(tmpdir(), "maestrale-e2e-"));
  await chmod(data, 0o755);
  const server = await start("up", data);
  const end = Date.now() + patience;
  while (!/\/setup\?code=\S+/.test(server.said())) {
    if (Date.now() > end) throw new Error(`no setup code was printed: ${server.said()}`);
    await new Promise((r) => setTimeout(r, 50));
  }
  return { ...server, setup: server.said().match(/http:\S+\/setup\?code=\S+/)[0] };
}

/** @param {"demo" | "up"} command
 * @param {string} data */
async function start(command, data) {
  const env = { ...process.env };
  delete env.DATABASE_URL;
  // The wind of a morning and the light of day: in the wind of an afternoon and at dusk some students have other
  // drills, and a test would hang on the hour.
  const morning = command === "demo" ? ["--wind-at", "09:00", "--light", "day"] : [];
  const child = spawn(
    path.join(root, "bin/maestrale"),
    [command, "--addr", "127.0.0.1:0", "--data", data, ...morning],
    {
      env,
      stdio: ["ignore", "pipe", "pipe"],
    },
  );
  let said = "";
  const url = await new Promise((resolve, reject) => {
    child.stdout.on("data", (d) => {
      said += d;
      const m = said.match(/serves on (http:\/\/\S+)/);
      if (m) resolve(m[1]);
    });
    child.stderr.on("data", (d) => {
      said += d;
    });
    child.on("exit", (code) => reject(new Error(`${command} ended with ${code}: ${said}`)));
  });
  const end = () => {
    const ended = new Promise((r) => child.on("exit", r));
    child.kill("SIGINT");
    return ended;
  };
  return {
    url,
    data,
    said: () => said,
    end,
    async stop() {
      const code = await end();
      await rm(data, { recursive: true, force: true });
      return code;
    },
  };
}

/** A page at a size, signed in as somebody of the sample school. */
export async function signedIn(
  browser,
  url,
  { email = "livia@saline.example", width = 1280, height = 800, ...more } = {},
) {
  const context = await browser.newContext({
    viewport: { width, height },
    baseURL: url,
    timezoneId: "Europe/Rome",
    deviceScaleFactor: coarse.has(browser) ? 0.25 : 1,
    ...more,
  });
  context.setDefaultTimeout(patience);
  const page = await context.newPage();
  await page.goto("/sign-in");
  await page.fill("#email", email);
  await page.fill("#password", password);
  await Promise.all([
    page.waitForURL((at) => at.pathname !== "/sign-in"),
    page.click("form[action='/sign-in'] .main-button"),
  ]);
  return page;
}

/** Takes the page's clock in hand: its time passes as asked, besides the time that
 * really passes. It stands some minutes back, never ahead of the server. */
export async function holdClock(page) {
  await page.clock.install({ time: Date.now() - 300_000 });
}

/** Lets so many seconds pass on the page. */
export async function pass(page, seconds) {
  for (let s = 0; s < seconds; s += 0.5) await page.clock.runFor(500);
}

/** Lets the page's time pass until something is so: the server's answers come in
 * between. */
export async function until(page, is, arg) {
  const end = Date.now() + patience;
  while (!(await page.evaluate(is, arg))) {
    if (Date.now() > end) throw new Error(`this never came true: ${is}`);
    await page.clock.runFor(200);
    await new Promise((r) => setTimeout(r, 50));
  }
}

/** Waits for the attempt that was just started to run: its clock counts from then. */
export async function begun(page) {
  await until(
    page,
    () =>
      /^step 1 /.test(document.querySelector("#step-name")?.textContent ?? "") &&
      !document.querySelector("#view-fly")?.hidden,
  );
}

/** Taps so often at one moment, as an impatient finger does, however busy the machine is. */
export async function tapsAtOnce(page, selector, times) {
  await page.locator(selector).evaluate((e, n) => {
    for (let i = 0; i < n; i++) e.click();
  }, times);
}

/** Opens the Fly screen with a radio whose sticks the test moves, and starts a run
 * that the test steps. */
export async function atTheRadio(page, at) {
  await page.addInitScript(() => {
    globalThis.radio = { yaw: 0, throttle: -1, roll: 0, pitch: 0, there: true };
    navigator.getGamepads = () =>
      radio.there
        ? [
            {
              connected: true,
              id: "a radio",
              axes: [radio.yaw, -radio.throttle, radio.roll, -radio.pitch],
              buttons: [],
            },
          ]
        : [];
  });
  await page.goto(at);
  await page.waitForFunction(() => !document.querySelector("#f-start").disabled);
  await page.evaluate(() => {
    globalThis.maestraleHeld = true;
  });
  await page.click("#f-start");
}

/** Moves the sticks and flies so many seconds. */
export const fly = (page, seconds, sticks = {}) =>
  page.evaluate(
    ([n, s]) => {
      Object.assign(radio, s);
      maestraleFly.fly(n);
    },
    [Math.round(seconds * 100), sticks],
  );

/** A number of the flight's state by its name. */
export const state = (page, name) => page.evaluate((n) => maestraleFly.get(n), name);

/** Finishes the run, where a crash has not done so, and returns what came of it. */
export async function finished(page) {
  if (await page.locator("#f-finish").isEnabled()) await page.click("#f-finish");
  await page.waitForFunction(
    () => !document.querySelector("#f-result").hidden && !/again/.test(document.querySelector("#r-word").textContent),
  );
  return page.locator("#f-result").innerText();
}

/** Starts the motors and climbs to the height of a hover. */
export async function takeOff(page) {
  await fly(page, 0.5, { throttle: -1 });
  await page.click("#f-arm");
  if ((await state(page, "armed")) !== 1) throw new Error("the motors do not run");
  await fly(page, 0.5);
  await fly(page, 1, { throttle: 0.4 });
  await fly(page, 0.3, { throttle: 0.25 });
}

/** A demo and a browser for the tests of a file; they are there once a test runs. */
export function atTheDemo(options) {
  const is = {
    /** @type {Awaited<ReturnType<typeof startDemo>>} */ demo: undefined,
    /** @type {import("playwright-core").Browser} */ browser: undefined,
  };
  before(async () => {
    is.demo = await startDemo();
    is.browser = await launch(options);
  });
  after(async () => {
    await is.browser?.close();
    assert.equal(await is.demo?.stop(), 0, "the demo stops cleanly on Ctrl-C");
  });
  return is;
}

/** Everything that the page complained about. */
export function complaints(page) {
  const list = [];
  page.on("console", (m) => {
    if (m.type() === "error" && !/status of 4\d\d/.test(m.text())) list.push(m.text());
  });
  page.on("pageerror", (e) => list.push(e.message));
  return list;
}

const everything = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"];

/** The page has nothing that axe objects to: by all of its rules, or by some. */
export async function accessible(page, what, only = everything) {
  await page.evaluate(axe.source);
  const found = await page.evaluate((rules) => window.axe.run(document, { runOnly: rules }), only);
  const said = found.violations.map(
    (v) =>
      `${v.id}: ${v.help}\n   ${v.nodes
        .slice(0, 3)
        .map((n) => n.html.slice(0, 200))
        .join("\n   ")}`,
  );
  assert.deepEqual(said, [], `axe on ${what}`);
}

/** Every address is accessible in both themes, with its folds open, and fits from 360 to
 * 1920 pixels. */
export async function fits(page, addresses) {
  for (const theme of ["day", "dusk"]) {
    await page.evaluate((t) => localStorage.setItem("theme", t), theme);
    for (const at of addresses) {
      await page.setViewportSize({ width: 1280, height: 800 });
      await page.goto(at);
      await page.evaluate(() => {
        for (const d of document.querySelectorAll("main details")) d.open = true;
        dispatchEvent(new Event("resize")); // what is wide now is reached by the keyboard
      });
      // A theme changes colours and nothing else.
      await accessible(page, `${at} in ${theme}`, theme === "day" ? everything : ["color-contrast"]);
      for (const width of theme === "day" ? [360, 820, 1920] : []) {
        await page.setViewportSize({ width, height: 800 });
        const over = await page.evaluate(
          () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
        );
        assert.ok(over <= 0, `${at} at ${width} is ${over} px too wide`);
      }
    }
  }
  await page.setViewportSize({ width: 1280, height: 800 });
}

/** Opens the pad of this device: a PIN is chosen where one is asked for. */
export async function atThePad(page) {
  await page.waitForSelector("#pin-form:not([hidden]), .away-student, #pad-mark:not([hidden]) #m-steps li");
  if (await page.locator("#pin-form").isVisible()) {
    await page.fill("#pin", "4711");
    await page.click("#pin-go");
  }
  await page.waitForSelector(".away-student, #pad-mark:not([hidden]) #m-steps li");
  await page.waitForFunction(() => document.documentElement.dataset.judge === "own");
}

/** Asks a page, and asks again when it went on to another page meanwhile. */
export async function steady(ask) {
  for (let tries = 0; ; tries++) {
    try {
      return await ask();
    } catch (problem) {
      if (tries === 5 || !/context was destroyed|navigat/.test(problem.message)) throw problem;
      await new Promise((r) => setTimeout(r, 200));
    }
  }
}

/** Gives a page its network back; the page may go on to another at once. */
export async function backOnline(page) {
  await page.context().setOffline(false);
  await steady(() => page.evaluate(() => dispatchEvent(new Event("online"))));
}

/** Holds something for a second, by the page's own clock: on a busy machine that takes longer than one by ours. forward
 * lets the second pass where the page's clock stands still. */
export async function hold(page, selector, forward) {
  const held = (is) =>
    page.waitForFunction(([s, yes]) => document.querySelector(s)?.classList.contains("held") === yes, [selector, is]);
  const b = await page.locator(selector).boundingBox();
  await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2);
  await page.mouse.down();
  if (forward) await forward();
  else {
    await held(true);
    await held(false);
  }
  await page.mouse.up();
}

/** Swipes over the large target: the craft left to there. */
export async function swipe(page, dx, dy) {
  const b = await page.locator("#big").boundingBox();
  const [x, y] = [b.x + b.width / 2, b.y + b.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + dx, y + dy, { steps: 4 });
  await page.mouse.up();
}

/** Waits for an element's text to match: what a screen says follows what was done,
 * sooner or later. */
export async function reads(where, what, why) {
  const end = Date.now() + patience;
  for (;;) {
    // While a page goes on to another there is nothing to read.
    const text = (
      await where
        .evaluate((e) => e.innerText ?? e.textContent ?? "")
        .catch((problem) => {
          if (/context was destroyed|navigat/.test(problem.message)) return "";
          throw problem;
        })
    ).trim();
    if (what.test(text) || Date.now() > end) return assert.match(text, what, why);
    await new Promise((r) => setTimeout(r, 50));
  }
}

/** Waits for there to be so many. */
export async function counts(where, many, why) {
  const end = Date.now() + patience;
  for (;;) {
    const n = await where.count();
    if (n === many || Date.now() > end) return assert.equal(n, many, why);
    await new Promise((r) => setTimeout(r, 50));
  }
}
