// What every browser test shares: the browser, the demo's server, and signing in.
import { spawn } from "node:child_process";
import { mkdtemp, rm, chmod } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { chromium } from "playwright-core";

export const root = path.resolve(import.meta.dirname, "..");
/** How long to wait for anything, in milliseconds: a shared machine can be slow. */
export const patience = 120_000;
export const password = "vento-da-maestro";

export function launch() {
  return chromium.launch({
    executablePath: "/usr/bin/chromium",
    timeout: patience,
    args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--disable-quic", "--no-first-run"],
  });
}

/** Starts the demo in a folder of its own and on a free port. */
export async function startDemo() {
  const data = await mkdtemp(path.join(tmpdir(), "maestrale-e2e-"));
  await chmod(data, 0o755);
  const env = { ...process.env };
  delete env.DATABASE_URL;
  const child = spawn(path.join(root, "bin/maestrale"), ["demo", "--addr", "127.0.0.1:0", "--data", data], { env, stdio: ["ignore", "pipe", "pipe"] });
  let said = "";
  const url = await new Promise((resolve, reject) => {
    child.stdout.on("data", (d) => {
      said += d;
      const m = said.match(/serves on (http:\/\/\S+)/);
      if (m) resolve(m[1]);
    });
    child.stderr.on("data", (d) => { said += d; });
    child.on("exit", (code) => reject(new Error(`the demo ended with ${code}: ${said}`)));
  });
  return {
    url,
    said: () => said,
    async stop() {
      const ended = new Promise((r) => child.on("exit", r));
      child.kill("SIGINT");
      const code = await ended;
      await rm(data, { recursive: true, force: true });
      return code;
    },
  };
}

/** A page at a size, signed in as somebody of the sample school. */
export async function signedIn(browser, url, { email = "livia@saline.example", width = 1280, height = 800, ...more } = {}) {
  const context = await browser.newContext({ viewport: { width, height }, baseURL: url, timezoneId: "Europe/Rome", ...more });
  context.setDefaultTimeout(patience);
  const page = await context.newPage();
  await page.goto("/sign-in");
  await page.fill("#email", email);
  await page.fill("#password", password);
  await page.click("text=Sign in >> nth=-1");
  await page.waitForLoadState("networkidle");
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
