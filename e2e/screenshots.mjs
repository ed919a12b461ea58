// Takes docs/screenshots/ anew, from the demo data. Run by "make screenshots".
import { mkdir } from "node:fs/promises";
import path from "node:path";
import { atThePad, atTheRadio, fly, holdClock, launch, pass, root, signedIn, startDemo, takeOff } from "./browser.mjs";

const out = path.join(root, "docs/screenshots");
await mkdir(out, { recursive: true });
const demo = await startDemo();
const browser = await launch();
const shot = (page, name) => page.screenshot({ path: path.join(out, `${name}.png`) });
const open = async (page, text) => {
  await page.click(`text=${text}`);
  await page.waitForURL("**/students/*");
};

const page = await signedIn(browser, demo.url);
await page.goto("/today");
await page.waitForSelector(".day-strip");
await shot(page, "today");
await page.goto("/records");
await shot(page, "records");
await page.click("a[href$='/gates/unassisted-aids-on']");
await page.waitForSelector(".gate-page");
await shot(page, "gate");
await page.goto("/students");
await open(page, "Bruno Fasolar");
await shot(page, "student");
await page.click("a:has-text('Trainers')");
await page.click("a:text-is('Reflexes')");
await page.waitForURL("**/reflex");
await page.evaluate(() => {
  globalThis.maestraleHaste = true;
});
await page.click("button:has-text('Five minutes')");
for (let i = 0; i < 40; i++) {
  await page.waitForFunction(() => maestraleReflex.get().state === "shown");
  const was = await page.evaluate(() => maestraleReflex.get());
  await page.keyboard.press(
    was.yaw ? (was.aspect_deg > 0 ? "a" : "d") : ["ArrowLeft", "ArrowUp", "ArrowDown", "ArrowRight"][i % 4],
  );
  await page.waitForFunction(([n]) => maestraleReflex.get().asked > n, [was.asked]);
}
await page.reload();
await page.click("button:has-text('Five minutes')");
await page.waitForFunction(() => maestraleReflex.get().state === "shown");
await page.evaluate(() => scrollTo(0, 0));
await shot(page, "reflex");
await page.goto("/students");
await open(page, "Bruno Fasolar");
await page.keyboard.press("l");
await page.waitForURL("**/log");
await page.setInputFiles("#file", path.join(root, "examples/hover-drift.csv"));
await page.click("text=Show the log");
await page.waitForSelector(".preview");
await page.keyboard.press("n");
await page.waitForURL("**/attempts/*");
await page.evaluate(() => scrollTo(0, 0));
await shot(page, "debrief");
await page.goto("/school");
await shot(page, "school");
await page.goto("/people");
await shot(page, "people");
await page.goto("/programmes");
await shot(page, "programmes");
await page.goto("/students");
await open(page, "Ilario Penzoval");
const ilario = new URL(page.url()).pathname;
await page.goto(`${ilario}/sight`);
await page.waitForFunction(() => /Carry/.test(document.querySelector("#sight-ask").textContent));
await shot(page, "sight");
await page.goto("/fleet");
await shot(page, "fleet");
await page.goto("/course");
await shot(page, "course");

const device = await signedIn(browser, demo.url, { width: 390, height: 844, hasTouch: true });
await device.goto("/pad");
await atThePad(device);
await device.waitForFunction(() => document.querySelector("#away-state").textContent === "");
await shot(device, "pad-device");

const pad = await signedIn(browser, demo.url, { width: 390, height: 844, hasTouch: true });
await open(pad, "Amina Corvelli");
await shot(pad, "student-phone");
const at = new URL(pad.url()).pathname;
await holdClock(pad);
await pad.goto(`${at}/mark?drill=hover-tail-in&side=none&aids=position-hold`);
await atThePad(pad);
await pad.click("#big");
await pass(pad, 5);
await pad.click("#big");
await pass(pad, 13);
await shot(pad, "pad-hold");

// A check on a phone, blocked by a low cell.
const phone = await signedIn(browser, demo.url, { width: 390, height: 844, hasTouch: true });
await phone.goto("/fleet");
await phone.click("text=poiana-2");
await phone.waitForURL("**/craft/*");
await phone.selectOption("#b-s", { label: "Ginevra Altamor" });
await phone.click("text=Start the check");
await phone.waitForURL("**/checks/*");
const answer = async (press, value) => {
  const item = await phone.locator("#check").getAttribute("data-next");
  const line = phone.locator(`#item-${item}`);
  if (value) await line.locator("input[name=value]").fill(value);
  await line.locator(press).first().click();
  await phone.waitForFunction((was) => document.querySelector("#check")?.dataset.next !== was, item);
};
for (;;) {
  const item = await phone.locator("#check").getAttribute("data-next");
  if (item === "cells") break;
  await answer(
    item === "airspace" ? "button:has-text('Note')" : "button:has-text('Yes')",
    item === "airspace" && "notice 12",
  );
}
await answer("button:has-text('Note')", "4.31 4.30 3.70 4.31");
await phone.locator("#item-cells").evaluate((e) => scrollTo(0, e.getBoundingClientRect().top + scrollY - 330));
await shot(phone, "check");
await browser.close();

// The simulator, its panel and its trainers, on a screen that draws WebGL.
const gl = await launch({ gl: true });
const whole = { deviceScaleFactor: 1 }; // tests draw it in coarse pixels
const sim = await signedIn(gl, demo.url, { email: "nives@saline.example", ...whole });
const student = new URL(sim.url()).pathname;
await atTheRadio(sim, `${student}/fly?drill=hover-tail-in&side=none&aids=position-hold&wind=6@180&gusts=light&seed=4`);
await takeOff(sim);
await fly(sim, 5, { throttle: 0 });
await sim.evaluate(() => {
  document.querySelector("#f-say").textContent = "";
  maestraleFly.draw();
});
await shot(sim, "fly");
const desk = await signedIn(gl, demo.url, whole);
await desk.goto(`${student}/watch`);
await desk.click("[data-event='gust=6']");
await desk.waitForSelector("#w-sent li");
for (let i = 0; i < 100 && !/ s: gust/.test(await desk.locator("#w-sent").innerText()); i++) {
  await fly(sim, 0.1);
  await sim.waitForTimeout(80);
}
for (let i = 0; i < 6; i++) {
  await fly(sim, 0.1);
  await sim.waitForTimeout(100);
}
await desk.waitForTimeout(1000);
await shot(desk, "watch");
await atTheRadio(desk, `${ilario}/fly?lost=birds&drill=regain-turn&seed=5`);
await fly(desk, 0.5, { throttle: 0 });
await fly(desk, 2, { pitch: 0.5 });
await desk.keyboard.press("k");
await fly(desk, 0.2, { pitch: 0 });
await desk.evaluate(() => {
  document.querySelector("#f-call").hidden = true;
  maestraleFly.draw();
});
await shot(desk, "lost");
await gl.close();
await demo.stop();
