// What stands before the pad: the PIN, and that of two tabs only one is the pad.

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));

/** Asks for a PIN: to choose one, or the one that opens the pad.
 * @param {boolean} fresh @param {(pin: string) => Promise<string>} then says what is wrong, or nothing */
export function askPin(fresh, then) {
  return new Promise((done) => {
    const form = /** @type {HTMLFormElement} */ (el("pin-form")),
      input = /** @type {HTMLInputElement} */ (el("pin"));
    form.hidden = false;
    input.value = "";
    el("away-state").textContent = "";
    el("pin-says").textContent = fresh ? "Choose a PIN for this pad, 4 to 8 digits" : "Your PIN";
    el("pin-why").textContent = fresh
      ? "The pad asks for it after five minutes without a touch, and when it is opened without a network."
      : "The pad was locked. Ten wrong tries throw its key away; what was marked stays sealed for the school.";
    el("pin-forget").hidden = fresh;
    input.focus();
    form.onsubmit = async (e) => {
      e.preventDefault();
      el("pin-go").toggleAttribute("disabled", true);
      const wrong = await then(input.value);
      el("pin-go").toggleAttribute("disabled", false);
      el("pin-wrong").hidden = !wrong;
      el("pin-wrong").textContent = wrong;
      if (wrong) return input.select();
      form.hidden = true;
      done(undefined);
    };
  });
}

/** Of two tabs one is the pad: two would mark over each other. */
export function onlyHere() {
  if (!navigator.locks) return Promise.resolve();
  let tries = 0;
  return new Promise((go) => {
    const take = (/** @type {LockOptions} */ how) =>
      navigator.locks
        .request("maestrale-pad", how, (lock) => {
          if (!lock && how.ifAvailable && tries++ < 20) {
            setTimeout(() => void take(how), 50); // the page before this one may be closing
            return undefined;
          }
          if (!lock) {
            el("away-state").textContent = "";
            el("pad-elsewhere").hidden = false;
            el("use-here").onclick = () => void take({ steal: true });
            return undefined;
          }
          el("pad-elsewhere").hidden = true;
          go(undefined);
          return new Promise(() => {}); // until the page is closed
        })
        .catch(() => location.reload()); // another tab took it
    void take({ ifAvailable: true });
  });
}
