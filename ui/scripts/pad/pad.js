// The marking pad on a page of the server: marks are kept on the device until the server
// has them, and the server judges.
import { openPad } from "./marks.js";

const pad = /** @type {HTMLElement} */ (document.getElementById("pad"));
/** @type {import("./marks.js").Config} */
const config = JSON.parse(pad.dataset.config ?? "{}");
const kept = `pad:${config.student}`;

openPad(
  config,
  {
    async send(run, marks, nowS) {
      const answer = await fetch(`/students/${config.student}/marks`, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ opening: run.opening, marks, now_s: nowS }),
      });
      return { ok: answer.ok, body: await answer.json() };
    },
    keep(run) {
      if (run) localStorage.setItem(kept, JSON.stringify(run));
      else localStorage.removeItem(kept);
    },
    again: (address) => {
      location.href = address || location.href;
    },
    choose: () => /** @type {HTMLFormElement} */ (document.getElementById("choose")).requestSubmit(),
  },
  JSON.parse(localStorage.getItem(kept) ?? "null"),
);
