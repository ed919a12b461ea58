// A run is kept on this device, sealed, before it is sent, and forgotten here once the school has it, or has said for
// good why it does not want it and somebody has read that.
import { canKeep, outbox, put, send, whoIs } from "../frame/keep.js";

/** Who flies, asked for while the page loads: a sign-in can end before the run does. */
const who = canKeep ? whoIs().catch(() => null) : Promise.resolve(null);

/**
 * Delivers a run. It says what became of it, in a word and a sentence, or with what the school found.
 * @param {string} student @param {{id: string}} body
 * @param {(word: string, summary: string, found?: any) => void} says
 */
export async function deliverRun(student, body, says) {
  const delivery = { path: `/students/${student}/runs`, type: "application/json", body: JSON.stringify(body) };
  const me = await who;
  if (!me) return deliverPlain(delivery, says);
  try {
    await put(me, "run", body.id, delivery);
  } catch (x) {
    says(
      "Not kept",
      `This device could not keep the run: ${x instanceof Error ? x.message : x}. Leave this page open.`,
    );
    return deliverPlain(delivery, says);
  }
  try {
    const { answers, signedOut } = await send("", "");
    const a = answers.find((x) => x.id === body.id);
    if (signedOut)
      says("Kept on this device", "The sign-in has ended. The run is sent once you sign in on this device again.");
    else if (a?.held)
      says("Waiting for a decision", "The run was flown under an earlier sign-in. Save it on the page of decisions.");
    else if (a?.said && (a.taken || a.said.refused !== undefined)) says("", "", a.said);
    else if (a?.final) says("Refused", `${a.error} ${a.do ?? ""} It stays on this device until you have read this.`);
    else says("Kept on this device", `${a?.error ?? "The school did not answer."} It is sent again.`);
  } catch {
    if ((await outbox()).some((s) => s.id === body.id))
      says("Kept on this device", "There is no network. The run is sent when any page is opened with one.");
  }
}

/** Without HTTPS nothing can be kept: the run is in this page alone until the school has it.
 * @param {{path: string, type: string, body: string}} d @param {(word: string, summary: string, found?: any) =>
 * void} says
 */
async function deliverPlain(d, says) {
  const stay = (/** @type {BeforeUnloadEvent} */ e) => e.preventDefault();
  addEventListener("beforeunload", stay);
  for (;;) {
    try {
      const r = await fetch(d.path, { method: "POST", headers: { "Content-Type": d.type }, body: d.body });
      if (r.status !== 401 && r.status < 500 && !r.redirected) {
        removeEventListener("beforeunload", stay);
        const found = await r.json();
        return found.error ? says("Refused", `${found.error} ${found.do ?? ""}`) : says("", "", found);
      }
      says("Not sent", "The school did not take the run yet. Sign in again in another tab, and leave this page open.");
    } catch {
      says("Not sent", "There is no network, and without HTTPS nothing is kept here. Leave this page open.");
    }
    await new Promise((r) => setTimeout(r, 5000));
  }
}
