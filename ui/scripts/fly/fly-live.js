// The line from the pilot's page to who watches: pictures go out ten times a
// second, and what an instructor lets happen comes in. Without a network there is
// no line, and the run is flown all the same.

/** @type {WebSocket | null} */
let line = null;
/** @type {string[]} */
let got = [];
let open = false;

/** @param {string} path */
export const address = (path) => `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}${path}`;

/** Begins to tell of a run.
 * @param {string} student @param {string} run @param {object} spec
 * @param {(event: string, by: string) => void} happen @param {(now: any) => void} stands
 * where the run stands in its drill */
export function tell(student, run, spec, happen, stands) {
  end();
  try {
    const mine = new WebSocket(address(`/students/${student}/live`));
    line = mine;
    mine.addEventListener("open", () => {
      mine.send(JSON.stringify({ run, spec }));
      open = true;
    });
    mine.addEventListener("message", (e) => {
      const o = JSON.parse(e.data);
      if (o.now) return stands(o.now);
      happen(o.event, o.by);
      got.push(o.id);
    });
    mine.addEventListener("close", () => {
      if (line === mine) {
        open = false;
        line = null;
      }
    });
  } catch {
    line = null;
  }
}

/** Sends a picture. @param {Float64Array} state @param {import("./radio-map.js").Axes} k @param {boolean} paused */
export function picture(state, k, paused) {
  if (!open || !line || line.bufferedAmount > 1 << 16) return;
  line.send(
    JSON.stringify({
      s: Array.from(state, (v) => Math.round(v * 1e4) / 1e4),
      k: [k.throttle, k.yaw, k.pitch, k.roll].map((v) => Math.round(v * 1e3) / 1e3),
      got,
      paused,
    }),
  );
  got = [];
}

export function end() {
  open = false;
  line?.close();
  line = null;
}
