// The logs of the day: the files go one after the other, so that it is seen how far they are and they can be stopped.
// Without this script the form sends them all at once.

const form = /** @type {HTMLFormElement | null} */ (document.getElementById("logs"));
const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const chosen = (/** @type {string} */ id) => /** @type {HTMLInputElement} */ (el(id));

/** @param {File} f */
const nameOf = (f) => f.webkitRelativePath || f.name;

/** @param {string} at @param {File} f @param {AbortSignal} signal */
async function send(at, f, signal) {
  const body = new FormData();
  body.set("name", nameOf(f));
  body.set("changed", String(f.lastModified));
  body.set("file", f);
  const r = await fetch(at, { method: "POST", body, signal, headers: { Accept: "application/json" } });
  if (r.redirected) throw new Error("The sign-in has ended. Sign in again; nothing was kept.");
  if (!r.ok) {
    const said = await r.json().catch(() => ({}));
    return `${nameOf(f)}: ${said.error ?? `the school answers ${r.status}.`}`;
  }
  return "";
}

/** @param {HTMLFormElement} of */
function begin(of) {
  const day = /** @type {HTMLSelectElement} */ (document.getElementById("of-day")).value;
  const files = [...(chosen("files").files ?? []), ...(chosen("folder").files ?? [])];
  if (files.length === 0) return;
  const stop = new AbortController();
  const bar = /** @type {HTMLProgressElement} */ (el("logs-bar"));
  of.hidden = true;
  el("logs-run").hidden = false;
  el("logs-stop").addEventListener("click", () => stop.abort(), { once: true });
  const says = (/** @type {string} */ words) => {
    el("logs-says").textContent = words;
  };
  void (async () => {
    let taken = 0;
    for (const [i, f] of files.entries()) {
      says(`Log ${i + 1} of ${files.length} is sent: ${nameOf(f)}`);
      const wrong = await send(`${of.action}?day=${day}`, f, stop.signal);
      if (wrong) el("logs-wrong").append(Object.assign(document.createElement("li"), { textContent: wrong }));
      else taken++;
      bar.value = (i + 1) / (files.length + 1);
    }
    if (taken === 0) throw new Error("None of the files was taken.");
    says("The logs are matched to the day and scored.");
    const r = await fetch(of.action, { signal: stop.signal });
    if (!r.ok) throw new Error("The logs could not be sorted. Look at Today, and give them again.");
    bar.value = 1;
    location.href = of.action;
  })().catch(async (x) => {
    const stopped = x instanceof DOMException && x.name === "AbortError";
    await fetch(`${of.action}/drop`, { method: "POST" }).catch(() => {});
    says(stopped ? "Cancelled. Nothing was kept." : x instanceof TypeError ? "The school is not reached." : x.message);
    of.hidden = false;
    el("logs-stop").hidden = true;
  });
}

// Either of the two ways to choose is enough.
const needs = () => {
  chosen("files").required = !chosen("folder").files?.length;
};
if (form) {
  chosen("folder").addEventListener("change", needs);
  form.addEventListener("submit", (e) => {
    e.preventDefault();
    begin(form);
  });
}

export {};
