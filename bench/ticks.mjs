// What a tick of the simulator takes in Chromium, in ns: runs bench/ticks, built for WebAssembly, in an empty page.
// node bench/ticks.mjs ticks.wasm wasm_exec.js
import { readFileSync } from "node:fs";

import { launch } from "../e2e/browser.mjs";

const [module, glue] = process.argv.slice(2).map((f) => readFileSync(f));
const browser = await launch({});
const page = await browser.newPage();
await page.route("http://bench.test/**", (route) =>
  route.request().url().endsWith(".wasm")
    ? route.fulfill({ body: module, contentType: "application/wasm" })
    : route.fulfill({ body: "<!doctype html><title>ticks</title>", contentType: "text/html" }),
);
const said = new Promise((done) => page.on("console", (m) => done(m.text())));
await page.goto("http://bench.test/");
await page.addScriptTag({ content: glue.toString() });
await page.evaluate(async () => {
  // @ts-ignore: the glue of Go's compiler
  const go = new Go();
  const { instance } = await WebAssembly.instantiateStreaming(fetch("/ticks.wasm"), go.importObject);
  await go.run(instance);
});
console.log(await said);
await browser.close();
