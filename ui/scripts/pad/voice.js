// Voice notes: held to record, up to twenty seconds, for the moment of the attempt at which it began. They are sealed
// and
// sent like marks.
import { newId } from "../frame/ids.js";
import * as keep from "../frame/keep.js";
import { current } from "./marks.js";
import * as line from "./line.js";
import { shake } from "./say.js";

const most = 20; // seconds
const least = 0.3;
const kinds = ["audio/webm;codecs=opus", "audio/ogg;codecs=opus", "audio/webm", "audio/mp4"];

/** @param {HTMLElement} button @param {HTMLElement} says */
export function openVoice(button, says) {
  /** @type {MediaRecorder | null} */
  let recorder = null;
  let pressed = false;
  /** @param {string} words */
  const tell = (words) => {
    says.hidden = words === "";
    says.textContent = words;
  };

  async function begin() {
    const at = current();
    if (!at || recorder || pressed) return;
    pressed = true;
    const kind = globalThis.MediaRecorder ? kinds.find((k) => MediaRecorder.isTypeSupported(k)) : undefined;
    if (!kind || !navigator.mediaDevices) {
      pressed = false;
      return tell("This browser records no voice notes here: they need HTTPS and a microphone.");
    }
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: true });
      const parts = /** @type {Blob[]} */ ([]);
      const from = performance.now();
      const r = new MediaRecorder(stream, { mimeType: kind, audioBitsPerSecond: 24_000 });
      recorder = r;
      r.addEventListener("dataavailable", (e) => parts.push(e.data));
      r.addEventListener("stop", () => {
        for (const t of stream.getTracks()) t.stop();
        recorder = null;
        button.classList.remove("held");
        const seconds = (performance.now() - from) / 1000;
        if (seconds >= least) void keepNote(at, new Blob(parts, { type: kind }), kind, Math.min(most, seconds));
      });
      r.start();
      button.classList.add("held");
      shake("taken");
      setTimeout(() => r.state === "recording" && r.stop(), most * 1000);
      if (!pressed) r.stop(); // it was let go before the microphone was there
    } catch (x) {
      shake("refused");
      tell(`The microphone is not open: ${x instanceof Error ? x.message : x}.`);
    }
  }

  function end() {
    pressed = false;
    if (recorder?.state === "recording") recorder.stop();
  }

  /**
   * @param {{id: string, student: string, t_s: number}} at @param {Blob} sound @param {string} mime @param
   * {number} seconds
   */
  async function keepNote(at, sound, mime, seconds) {
    const id = newId();
    const body = {
      id,
      attempt: at.id,
      t_s: at.t_s,
      seconds,
      mime,
      sound: keep.base64(await sound.arrayBuffer()),
    };
    try {
      await line.deliver("voice", id, `/students/${at.student}/voice`, body);
      tell("");
      shake("taken");
    } catch (x) {
      shake("refused");
      tell(`The voice note is not kept: ${x instanceof Error ? x.message : x}.`);
    }
  }

  button.addEventListener("pointerdown", () => void begin());
  for (const t of ["pointerup", "pointerleave", "pointercancel", "blur"]) button.addEventListener(t, end);
  button.addEventListener("keydown", (e) => {
    if ((e.key === " " || e.key === "Enter") && !e.repeat) {
      e.preventDefault();
      void begin();
    }
  });
  button.addEventListener("keyup", end);
  button.addEventListener("contextmenu", (e) => e.preventDefault());
}
