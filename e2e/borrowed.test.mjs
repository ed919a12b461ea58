// A pad that nobody can borrow, and nothing that is lost: somebody else's phone, a clock that is wrong, two tabs, a PIN
// that nobody knows, storage that is full, and an address without HTTPS.
import assert from "node:assert/strict";
import { test } from "node:test";
import {
  accessible,
  atThePad,
  atTheDemo,
  atTheRadio,
  backOnline,
  fly,
  hold,
  launch,
  password,
  reads,
  signedIn,
  steady,
  tapsAtOnce,
} from "./browser.mjs";

const is = atTheDemo();
const phone = { width: 390, height: 844, hasTouch: true };

/** Signs in on a page that is open already. */
async function signIn(page, email) {
  await page.goto("/sign-in");
  await page.fill("#email", email);
  await page.fill("#password", password);
  await page.click("form[action='/sign-in'] .main-button");
  await page.waitForLoadState("networkidle");
}

/** Everything that a page can read of what its device keeps, as one text; runs in the page. */
async function everything() {
  const out = [JSON.stringify({ ...localStorage }), JSON.stringify({ ...sessionStorage })];
  for (const { name } of await indexedDB.databases()) {
    const db = await new Promise((ok, no) => {
      const r = indexedDB.open(name);
      r.onsuccess = () => ok(r.result);
      r.onerror = () => no(r.error);
    });
    for (const store of db.objectStoreNames) {
      const all = await new Promise((ok) => {
        const r = db.transaction(store).objectStore(store).getAll();
        r.onsuccess = () => ok(r.result);
      });
      for (const v of all)
        out.push(
          JSON.stringify(v, (_, x) =>
            x instanceof ArrayBuffer || ArrayBuffer.isView(x) ? new TextDecoder("latin1").decode(x) : x,
          ) ?? "",
        );
    }
    db.close();
  }
  for (const name of await caches.keys())
    for (const r of await (await caches.open(name)).matchAll())
      if (/html|json/.test(r.headers.get("Content-Type") ?? "")) out.push(await r.text());
  return out.join("\n");
}

const readable = (page) => steady(() => page.evaluate(everything));

const names = /Amina|Corvelli|Fasolar|Velkovar|Ettore|hover-tail-in|"marks"|evidence/;

/** Marks an attempt of a student's, from the list of the pad, and ends it. */
async function mark(page, name) {
  await page.click(`.away-student:has-text("${name}")`);
  await page.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
  await page.click("#big");
  await page.waitForTimeout(600);
  await page.click("#big");
  await page.waitForTimeout(600);
  await hold(page, "#b-end");
  await page.waitForSelector("#view-verdict:not([hidden])");
  await page.click("#away-back");
  await page.waitForSelector(".away-student");
}

const attemptsOf = async (email, name) => {
  const page = await signedIn(is.browser, is.demo.url, { email });
  const day = await (await page.request.get("/pad/day")).json();
  await page.context().close();
  return day.students.find((s) => s.name === name).evidence.filter((e) => Date.now() - Date.parse(e.at) < 3600_000);
};

test("a student who takes an instructor's phone passes nobody and reads nothing", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
  await page.goto("/pad");
  await atThePad(page);
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
  await page.goto("/students");
  assert.doesNotMatch(await readable(page), names, "what the pad keeps is locked even while somebody is signed in");
  await page.click(".who summary");
  await page.click("button:has-text('Sign out')");
  await page.waitForURL("**/sign-in");
  await page.waitForFunction(() => document.documentElement.dataset.looked === "yes");
  for (const offline of [false, true]) {
    await page.context().setOffline(offline);
    await page.goto("/pad");
    await reads(page.locator("#away-state"), offline ? /no day is on this device/ : /Not signed in/);
    assert.equal(await page.locator(".away-student").count(), 0);
    assert.doesNotMatch(await readable(page), names);
  }
  await page.context().setOffline(false);
  await signIn(page, "nives@saline.example");
  await page.goto("/pad");
  await reads(page.locator("#away-state"), /A student does not mark/);
  assert.equal(await page.locator(".away-student").count(), 0);
  await page.context().close();
});

test("marks of a sign-in that has ended wait for a person, whoever delivers them", async () => {
  const before = (await attemptsOf("livia@saline.example", "Dunja Velkovar")).length;
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
  await page.goto("/pad");
  await atThePad(page);
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
  await page.context().setOffline(true);
  await mark(page, "Dunja Velkovar");
  await reads(page.locator("#away-unsent"), /3 marks of 1 attempt not sent yet/);
  // The sign-in ends elsewhere: the phone hears of it when it comes back.
  await page.context().clearCookies();
  await backOnline(page);
  await reads(page.locator("#away-wrong"), /ended|Nobody is signed in here/);
  await reads(page.locator("#away-unsent"), /1 not sent yet/, "what is sealed is not said to be sent");
  assert.doesNotMatch(await readable(page), names);
  // Somebody else signs in on it, and the phone delivers: it goes to a person.
  await signIn(page, "gildo@saline.example");
  await reads(page.locator(".delivered"), /1 item from another sign-in waits for a decision/);
  await page.goto("/held");
  assert.doesNotMatch(await page.locator("main").innerText(), /Velkovar/);
  await page.context().close();
  assert.equal((await attemptsOf("livia@saline.example", "Dunja Velkovar")).length, before);
  const chief = await signedIn(is.browser, is.demo.url);
  await chief.goto("/today");
  await chief.click("text=Look at it");
  const held = chief.locator(".held", { hasText: "Dunja Velkovar" });
  await reads(held, /Made by\s+Ettore Scarpaval/);
  await accessible(chief, "what waits for a decision");
  await held.locator("button:has-text('Save it')").click();
  await chief.waitForURL("**/held");
  await chief.context().close();
  assert.equal((await attemptsOf("livia@saline.example", "Dunja Velkovar")).length, before + 1);
});

test("five idle minutes lock the pad, its PIN opens it offline, and ten wrong ones throw the key away", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "mirta@saline.example" });
  await page.goto("/pad");
  await atThePad(page);
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
  await page.reload();
  await page.waitForSelector(".away-student"); // in use: no PIN is asked for
  await page.context().setOffline(true);
  // Five minutes pass while nobody touches it.
  const age = () =>
    page.evaluate(async () => {
      const db = await new Promise((ok) => {
        const r = indexedDB.open("maestrale");
        r.onsuccess = () => ok(r.result);
      });
      const s = db.transaction("vault", "readwrite").objectStore("vault");
      const open = await new Promise((ok) => {
        const r = s.get("open");
        r.onsuccess = () => ok(r.result);
      });
      s.put({ ...open, at: open.at - 301_000 }, "open");
      await new Promise((ok) => {
        s.transaction.oncomplete = ok;
      });
      db.close();
    });
  await age();
  await page.reload();
  await reads(page.locator("#pin-says"), /Your PIN/);
  await accessible(page, "the PIN");
  assert.equal(await page.locator(".away-student").count(), 0);
  await page.fill("#pin", "0000");
  await page.click("#pin-go");
  await reads(page.locator("#pin-wrong"), /9 tries are left/);
  await page.fill("#pin", "4711");
  await page.click("#pin-go");
  await page.waitForSelector(".away-student");
  await mark(page, "Amina Corvelli");
  await page.click("#away-lock");
  await reads(page.locator("#pin-says"), /Your PIN/);
  for (let i = 9; i > 0; i--) {
    await page.fill("#pin", "0000");
    await page.click("#pin-go");
    await reads(page.locator("#pin-wrong"), new RegExp(`${i} (try is|tries are) left`));
  }
  await page.fill("#pin", "0000");
  await page.click("#pin-go");
  await reads(page.locator("#away-wrong"), /Ten wrong PINs/);
  assert.doesNotMatch(await readable(page), names);
  // What was marked is sealed, and not lost.
  await page.context().setOffline(false);
  await page.goto("/pad");
  await atThePad(page);
  await reads(page.locator("#away-unsent"), /all sent/);
  await page.context().close();
  assert.ok((await attemptsOf("livia@saline.example", "Amina Corvelli")).length >= 1);
});

for (const [what, ms] of [
  ["ahead", 864e5],
  ["behind", -864e5],
])
  test(`a device whose clock is a day ${what} works, and dates its marks right`, async () => {
    const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
    await page.addInitScript((off) => {
      const Real = Date;
      globalThis.Date = class extends Real {
        constructor(...a) {
          super(...(a.length ? a : [Real.now() + off]));
        }
        static now() {
          return Real.now() + off;
        }
      };
    }, ms);
    await page.goto("/pad");
    await atThePad(page);
    await page.waitForSelector(".away-student");
    await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
    await page.context().setOffline(true);
    const from = Date.now();
    await mark(page, "Bruno Fasolar");
    const to = Date.now();
    await page.reload();
    await page.waitForSelector(".away-student");
    await backOnline(page);
    await reads(page.locator("#away-unsent"), /all sent/);
    await page.context().close();
    const times = (await attemptsOf("livia@saline.example", "Bruno Fasolar")).map((e) => Date.parse(e.at));
    assert.ok(
      times.some((t) => t > from - 1000 && t < to + 1000),
      `none is dated between ${from} and ${to}: ${times}`,
    );
  });

test("the clock is set back in mid-attempt, and nothing sticks", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
  await page.addInitScript(() => {
    const real = Date.now.bind(Date);
    globalThis.setBack = 0;
    Date.now = () => real() - globalThis.setBack;
  });
  await page.goto("/pad");
  await atThePad(page);
  await page.click('.away-student:has-text("Olga Stivanel")');
  await page.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
  await page.click("#big");
  await page.waitForTimeout(600);
  await page.evaluate(() => {
    globalThis.setBack = 60_000;
  });
  await page.click("#big");
  await page.waitForTimeout(600);
  await hold(page, "#b-end");
  await page.waitForSelector("#view-verdict:not([hidden])");
  await page.click("#away-back");
  await reads(page.locator("#away-unsent"), /all sent/);
  await page.context().close();
});

test("of two tabs one is the pad, and the other can take it over", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
  await page.goto("/pad");
  await atThePad(page);
  const other = await page.context().newPage();
  await other.goto("/pad");
  await reads(other.locator("#pad-elsewhere"), /open in another tab/);
  assert.equal(await other.locator(".away-student").count(), 0);
  await other.click("#use-here");
  await other.waitForSelector(".away-student");
  await reads(page.locator("#pad-elsewhere"), /open in another tab/);
  await page.context().close();
});

test("a device that is full says so before an attempt", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
  await page.addInitScript(() => {
    navigator.storage.estimate = async () => ({ quota: 5e6, usage: 49e5 });
  });
  await page.goto("/pad");
  await atThePad(page);
  await page.click('.away-student:has-text("Olga Stivanel")');
  await reads(page.locator("#m-full:not([hidden])"), /This device is full/);
  await page.click("#big");
  await reads(page.locator("#pad-wrong"), /nothing was begun/);
  assert.ok(await page.locator("#view-start").isVisible());
  await page.context().close();
});

test("impatient taps do no harm: a double tap at the start, at a touch and at the end", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
  await page.goto("/pad");
  await atThePad(page);
  await page.click('.away-student:has-text("Sibilla Nordest")');
  await page.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
  const big = (n) => tapsAtOnce(page, "#big", n);
  // A tap before the chosen drill is shown begins nothing, least of all the drill before it.
  await page.evaluate(() => {
    const drill = document.querySelector("#drill");
    drill.value = "landing-pad";
    drill.dispatchEvent(new Event("change", { bubbles: true }));
    document.querySelector("#big").click();
    document.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter" }));
  });
  await reads(page.locator("#m-title"), /[Ll]anding/);
  assert.ok(await page.locator("#view-start").isVisible());
  await big(3); // three times, and the page is opened again meanwhile
  await page.evaluate(async () => {
    for (let i = 0; i < 40; i++) {
      dispatchEvent(new HashChangeEvent("hashchange"));
      await new Promise((r) => setTimeout(r, 2));
    }
  });
  await page.waitForSelector("#view-fly:not([hidden])");
  await reads(page.locator("#step-name"), /step 1 of/);
  await page.waitForTimeout(700);
  await big(2);
  await reads(page.locator("#step-name"), /step 2 of/);
  // A drill that is gone back to in mid-attempt does not become the drill of that attempt.
  const title = await page.locator("#m-title").innerText();
  await page.goBack();
  await page.waitForFunction(() => location.hash.includes("landing-pad"));
  await reads(page.locator("#step-name"), /step 2 of/);
  assert.equal(await page.locator("#m-title").innerText(), title);
  const over = () => page.locator("#step-name").evaluate((e) => /all steps done/.test(e.textContent));
  for (let i = 0; i < 60 && !(await over()); i++) {
    await page.waitForTimeout(900);
    // The second of the two taps may have said already that it stands, or not.
    if (/Landed|It stands|Inside/.test(await page.locator("#big").innerText())) await big(2);
  }
  await reads(page.locator("#step-name"), /all steps done/);
  await page.waitForTimeout(700);
  // The page itself taps while the verdict is new: a test on a busy machine comes too late for that.
  const hasty = page.evaluate(async () => {
    const next = /** @type {HTMLElement} */ (document.querySelector("#big"));
    let taps = 0;
    for (let i = 0; i < 3000 && taps < 5; i++) {
      await new Promise((r) => setTimeout(r, 10));
      if (document.querySelector("#view-verdict").hidden) continue;
      if (!next.classList.contains("calm")) break;
      next.click();
      taps++;
    }
    return taps;
  });
  await big(2); // the second one does not go on, and does not hide the verdict
  await page.waitForSelector("#view-verdict:not([hidden])");
  assert.ok((await hasty) > 0, "nobody tapped while the verdict was new");
  assert.ok(await page.locator("#view-verdict").isVisible());
  assert.doesNotMatch(await page.locator("#view-verdict").innerText(), /bounce/i);
  // Taken back within ten seconds, the attempt goes on; then it is made void, with what that changes.
  await page.click("#v-undo");
  await page.waitForSelector("#view-fly:not([hidden])");
  await page.waitForTimeout(700);
  await big(1);
  await page.waitForSelector("#view-verdict:not([hidden])");
  await page.click("#v-void");
  await reads(page.locator("#void-says"), /no longer counts|nothing else changes/);
  await page.click("[data-void='a gust']");
  await reads(page.locator("#v-word"), /^void$/);
  await page.context().close();
});

test("a run of the simulator that ends after the sign-in is kept, and sent after the next one", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const student = new URL(page.url()).pathname;
  await atTheRadio(page, `${student}/fly?free=yes`);
  await fly(page, 1);
  await page.context().clearCookies();
  await page.click("#f-finish");
  await reads(page.locator("#r-word"), /Kept on this device/);
  await reads(page.locator("#r-summary"), /sent once you sign in/);
  await page.reload();
  await signIn(page, "nives@saline.example");
  await reads(page.locator(".delivered"), /1 item from another sign-in waits/);
  await page.goto(student); // and on the next page still
  await reads(page.locator(".delivered"), /1 item from another sign-in waits/);
  await page.click(".delivered a");
  await page.click("button:has-text('Save it, as mine')");
  await reads(page.locator("main"), /Nothing waits/);
  await page.context().close();
});

test("an address without HTTPS marks online, keeps nothing, and says so", async () => {
  const port = new URL(is.demo.url).port;
  const browser = await launch({ args: [`--host-resolver-rules=MAP field.example 127.0.0.1`] });
  try {
    const page = await signedIn(browser, `http://field.example:${port}`, { ...phone, email: "ettore@saline.example" });
    await page.goto("/pad");
    await page.waitForSelector(".away-student");
    await reads(page.locator("#away-online"), /works online only/);
    await page.waitForFunction(() => document.documentElement.dataset.judge === "own");
    await mark(page, "Marko Ulivanic");
    await reads(page.locator("#away-unsent"), /all sent/);
    assert.doesNotMatch(await page.evaluate(() => JSON.stringify({ ...localStorage })), names);
  } finally {
    await browser.close();
  }
});

test("a note that is written after the sign-in has ended is kept, and waits for who wrote it", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "ettore@saline.example" });
  await page.click("text=Nives Torcellan");
  await page.waitForURL("**/students/*");
  await page.locator("a[href*='/attempts/']").first().click();
  await page.waitForURL("**/attempts/*");
  const at = page.url();
  await page.waitForLoadState("networkidle");
  await page.fill("#note", "Look at the nose before the height.");
  await page.context().clearCookies();
  await page.click("text=Pin the note");
  await reads(page.locator("main"), /kept on this device, and is sent once you sign in/);
  assert.doesNotMatch(await readable(page), /before the height/);
  await signIn(page, "ettore@saline.example");
  await page.goto("/held");
  await reads(page.locator(".held", { hasText: "A note to an attempt" }), /you, under an earlier sign-in/);
  await page.locator(".held", { hasText: "A note to an attempt" }).locator("button:has-text('Save it')").click();
  await page.waitForURL("**/held");
  await page.goto(at);
  await reads(page.locator(".notes"), /Look at the nose before the height/);
  await page.context().close();
});

test("what an earlier version left on a device in the clear is sealed, and goes to a person", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "ettore@saline.example" });
  const day = await (await page.request.get("/pad/day")).json();
  const teo = day.students.find((s) => s.name === "Teo Brusaferal").id;
  await page.evaluate((student) => {
    const id = "01a00000-0000-7000-8000-000000000001";
    const mark = (n, t_s, mark) => ({ id: `01a00000-0000-7000-8000-00000000001${n}`, t_s, mark });
    localStorage.setItem(
      `pad:${student}`,
      JSON.stringify({
        opening: {
          id,
          drill: "hover-tail-in",
          side: "none",
          level: 1,
          aids: "position-hold",
          craft: "poiana",
          course: "",
          device_at: new Date(Date.now() - 60_000).toISOString(),
        },
        marks: [mark(1, 0, "start"), mark(2, 4, "in"), mark(3, 9, "done")],
        sent: [],
      }),
    );
  }, teo);
  await page.goto("/students");
  await reads(page.locator(".delivered"), /waits for a decision/);
  assert.doesNotMatch(await page.evaluate(() => JSON.stringify({ ...localStorage })), names);
  await page.goto("/held");
  await reads(page.locator(".held", { hasText: "Teo Brusaferal" }), /Found on a device[\s\S]*incomplete/);
  await page.context().close();
});

test("signing out where no network reaches holds: the pad opens for nobody once it is back", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
  await page.goto("/pad");
  await atThePad(page);
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
  await page.goto("/students");
  await page.waitForFunction(() => document.documentElement.dataset.looked === "yes");
  await page.context().setOffline(true);
  await page.click(".who summary");
  await page.click("button:has-text('Sign out')");
  await page.waitForTimeout(1500);
  await page.goto("/pad");
  await reads(page.locator("#away-state"), /Somebody signed out here/);
  await page.context().setOffline(false);
  await page.goto("about:blank");
  await page.goto("/pad");
  await reads(page.locator("#away-state"), /Not signed in/);
  assert.match((await page.request.get("/students")).url(), /sign-in/, "the school has heard of it");
  await page.context().close();
});

test("a touch after a long while wakes nothing: the pad asks for its PIN", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...phone, email: "ettore@saline.example" });
  await page.addInitScript(() => {
    const real = Date.now.bind(Date);
    globalThis.ahead = Number(sessionStorage.getItem("ahead") ?? 0);
    Date.now = () => real() + globalThis.ahead;
  });
  await page.goto("/pad");
  await atThePad(page);
  await page.evaluate(() => {
    sessionStorage.setItem("ahead", "360000");
    globalThis.ahead = 360_000; // the device slept for six minutes
  });
  await page.click(".away-student >> nth=0", { noWaitAfter: true });
  await reads(page.locator("#pin-says"), /Your PIN/);
  assert.equal(await page.locator("#pad-mark").isVisible(), false);
  await page.context().close();
});
