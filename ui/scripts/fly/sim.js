// Loads flight.wasm: the simulator and the rotors' bench behind it.

/** @type {any} */
const page = globalThis;

/** Loads it from an address; maestraleSim and maestraleBench are there then.
 * @param {string} address */
export async function loadSim(address) {
  const go = new page.Go();
  const ready = new Promise((done) => {
    page.maestraleSimReady = () => done(null);
  });
  const { instance } = await WebAssembly.instantiateStreaming(fetch(address), go.importObject);
  await new Promise((done) => setTimeout(done)); // a page that has just compiled it shows itself first
  void go.run(instance);
  await ready;
  const wasm = /** @type {any} */ (instance.exports),
    stateAt = wasm.stateAt();
  /** Flies n readings of the sticks and fills out with the state; it tells whether
   * the run goes on.
   * @param {number} n @param {number} throttle @param {number} yaw @param {number} pitch @param {number} roll
   *   @param {number} wheel @param {number} aids @param {number} frame @param {Float64Array} out
   */
  page.maestraleSim.reading = (n, throttle, yaw, pitch, roll, wheel, aids, frame, out) => {
    const on = wasm.reading(n, throttle, yaw, pitch, roll, wheel, aids, frame);
    out.set(new Float64Array(wasm.mem.buffer, stateAt, out.length)); // the memory moves as it grows
    return Boolean(on);
  };
  /** How often something was called out to the pilot so far. */
  page.maestraleSim.calls = () => wasm.calls();
}
