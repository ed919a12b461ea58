// The page of how far a student tells the nose: it loads the rules and notes calls.
import { canKeep, whoIs } from "../frame/keep.js";
import { openCalls } from "./calls.js";

/** @type {any} */
const page = globalThis;
const holder = /** @type {HTMLElement | null} */ (document.getElementById("sight-config"));

async function load() {
  const go = new page.Go();
  const { instance } = await WebAssembly.instantiateStreaming(fetch(holder?.dataset.wasm ?? ""), go.importObject);
  void go.run(instance);
  const who = canKeep ? await whoIs().catch(() => null) : null;
  openCalls(JSON.parse(holder?.dataset.config ?? "{}"), who, "", page.maestralePad.nextCall);
}

if (holder?.dataset.wasm) {
  load().catch((e) => {
    const ask = document.getElementById("sight-ask");
    if (ask) ask.textContent = `The fit did not load: ${e instanceof Error ? e.message : e}. Reload the page`;
  });
}
