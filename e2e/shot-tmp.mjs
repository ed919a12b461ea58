import { launch, startEmpty } from "./browser.mjs";
const browser = await launch();
const server = await startEmpty();
const ctx = await browser.newContext({
  viewport: { width: 1280, height: 800 },
  baseURL: server.url,
  timezoneId: "Europe/Rome",
});
ctx.setDefaultTimeout(60000);
const page = await ctx.newPage();
await page.goto(server.setup);
await page.fill("#st-school", "Scuola di prova");
await page.fill("#st-name", "Lia Capovela");
await page.fill("#st-email", "lia@prova.example");
await page.fill("#st-password", "la torre del faro");
await page.click("button:has-text('Make the school')");
await page.waitForURL("**/start");
for (const p of [
  "today",
  "students",
  "fly",
  "sites",
  "fleet",
  "records",
  "records/audit",
  "calendar",
  "records/exchange",
]) {
  await page.goto("/" + p);
  console.log("== " + p + "\n" + (await page.locator("main").innerText()).slice(0, 900));
}
await page.goto("/students");
await page.fill("#name", "Ada Testa");
await page.click("button:has-text('Add the student')");
await page.waitForURL("**/students/*");
const at = new URL(page.url()).pathname;
for (const p of ["", "/practice", "/lesson", "/lost", "/reflex", "/sight", "/trainers", "/log"]) {
  await page.goto(at + p);
  console.log("== student" + p + "\n" + (await page.locator("main").innerText()).slice(0, 700));
}
await browser.close();
await server.stop();
