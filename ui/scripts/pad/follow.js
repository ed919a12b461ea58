// Follows a craft by its position: the server says how it stands, this shows it large.

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));

document.getElementById("fo-start")?.addEventListener("click", () => {
  const line = new EventSource(el("follow").dataset.live ?? "");
  /** @type {HTMLButtonElement} */ (el("fo-start")).disabled = true;
  line.addEventListener("live", (e) => {
    /**
     * @type {{step: number, steps: number, asked: string, words: string, inside: boolean, faults: string[],
     *   done: boolean, t_s: number, heard: boolean, wrong?: string}}
     */
    const l = JSON.parse(/** @type {MessageEvent} */ (e).data);
    el("fo-words").textContent = l.words;
    el("fo-words").classList.toggle("out", l.heard && !l.inside);
    el("fo-asked").textContent = l.done ? "" : l.asked;
    el("fo-clock").textContent = l.heard
      ? `${l.t_s.toFixed(0)} s, step ${Math.min(l.step + 1, l.steps)} of ${l.steps}`
      : "";
    el("fo-faults").replaceChildren(
      ...l.faults.map((t) => Object.assign(document.createElement("li"), { textContent: t })),
    );
    el("fo-wrong").hidden = !l.wrong;
    el("fo-wrong").textContent = l.wrong ?? "";
    /** @type {HTMLButtonElement} */ (el("fo-keep")).disabled = !l.heard;
    if (l.done || l.wrong) line.close();
  });
  line.addEventListener("error", () => {
    if (line.readyState === EventSource.CLOSED) return;
    line.close(); // a stream is begun anew by hand: it would forget what was flown
    el("fo-wrong").hidden = false;
    el("fo-wrong").textContent = "The line to the school broke. What was flown until then can be kept.";
  });
});

export {};
