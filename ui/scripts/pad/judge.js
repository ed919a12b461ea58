// The compiled judge, beside the page: it takes a while to begin on a slow phone, and meanwhile the page answers the
// hand. It is asked by messages, one answer for each.

/** @type {any} */
const worker = globalThis;

/** @type {Promise<void> | null} */
let begun = null;

/** @param {{wasm: string, exec: string}} at */
async function begin({ wasm, exec }) {
  await import(exec);
  const go = new worker.Go();
  const { instance } = await WebAssembly.instantiateStreaming(fetch(wasm), go.importObject);
  void go.run(instance);
}

worker.addEventListener("message", async (/** @type {MessageEvent} */ e) => {
  const { id, what, args } = e.data;
  try {
    if (what === "begin") {
      begun ??= begin(args[0]);
      await begun;
      worker.postMessage({ id, said: '{"ok":true}' });
      return;
    }
    await begun;
    worker.postMessage({ id, said: worker.maestralePad[what](...args) });
  } catch (x) {
    worker.postMessage({ id, said: JSON.stringify({ error: x instanceof Error ? x.message : String(x) }) });
  }
});

export {};
