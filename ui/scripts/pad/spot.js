// The spotter's view beside the instructor's pad: in, out and where to, a call, traffic, and stop. What is pressed is
// kept by its moment, and joins the marks of the attempt that is flown then, whenever the two devices meet the school.
import { newId } from "../frame/ids.js";
import * as clock from "./clock.js";
import * as line from "./line.js";
import { say, shake } from "./say.js";

const words = /** @type {Record<string, string>} */ ({
  in: "in position",
  out: "out",
  call: "a call",
  traffic: "traffic",
  stop: "stop",
});

/** What was seen, as it is said. @param {{mark: string, toward: string}} s */
const sayOf = (s) => `${words[s.mark] ?? s.mark}${s.toward ? `, ${s.toward}` : ""}`;

let student = "";

/** Opens the view on a student. @param {HTMLElement} box @param {{id: string, name: string}} of */
export function openSpot(box, of) {
  student = of.id;
  const name = box.querySelector("h1");
  if (name) name.textContent = of.name;
  if (box.dataset.ready) return;
  box.dataset.ready = "yes";
  const last = /** @type {HTMLElement} */ (box.querySelector(".spot-last"));
  box.addEventListener("click", (e) => {
    const b = e.target instanceof Element ? /** @type {HTMLElement | null} */ (e.target.closest("[data-seen]")) : null;
    if (!b) return;
    const s = { id: newId(), mark: b.dataset.seen ?? "", toward: b.dataset.toward ?? "" };
    const at = clock.here();
    line
      .deliver("sighting", s.id, `/students/${student}/sightings`, {
        ...s,
        from: { device: line.device, seq: 1, ...at, stretches: clock.stretches() },
      })
      .then(
        () => {
          shake("taken");
          last.textContent = `${sayOf(s)}, noted`;
        },
        (x) => {
          shake("refused");
          last.textContent = `It was not kept: ${x instanceof Error ? x.message : x}`;
        },
      );
  });
}

/** What was said of the spotter's already. @type {Set<string>} */
const heard = new Set();

/** Says on the instructor's pad what a spotter sees of a student now. @param {string} of @param {HTMLElement} shows */
export async function hearSpotter(of, shows) {
  try {
    const r = await fetch(`/students/${of}/sightings`, { headers: { Accept: "application/json" } });
    if (!r.ok) return;
    const { seen } = await r.json();
    for (const s of seen) {
      if (heard.has(s.id)) continue;
      heard.add(s.id);
      say("spotter", s.mark === "stop" ? "Stop, says the spotter" : `Spotter: ${sayOf(s)}`);
      shows.textContent = `${s.by}: ${sayOf(s)}`;
    }
  } catch {
    // No network: it comes with the marks.
  }
}
