// Every page that the school serves looks whether what this device keeps is still that of who is signed in; what is
// somebody else's, or of a sign-in that has ended, is forgotten before anybody can read it.
import { adopt } from "./adopt.js";
import { canKeep, forget, forgetSealed, itemsWait, outbox, ownerHere, send, signingOut, store, whoIs } from "./keep.js";

const signIn = document.documentElement.dataset.signIn ?? "";

/** Signing out works without a network too: this device forgets at once, and the school hears of it when it can. */
async function signedOut() {
  await forget();
  try {
    await (await store()).put("device", true, "signing-out");
  } catch {
    // Nothing could be kept here, so that there is nothing to remember.
  }
}

document.addEventListener("submit", (e) => {
  const form = e.target;
  if (!(form instanceof HTMLFormElement) || new URL(form.action).pathname !== "/sign-out" || form.dataset.clean) return;
  e.preventDefault();
  signedOut().finally(() => {
    form.dataset.clean = "yes";
    form.submit();
  });
});

async function look() {
  const owner = await ownerHere();
  if (owner && owner !== signIn) await forget();
  // Somebody signed out here while there was no network: it is done now.
  const db = await store();
  const pending = await db.get("device", "signing-out");
  if (pending && !(await signingOut()) && signIn) location.href = "/sign-in";
}

/** Says something at the top of the page. @param {string} words @param {string} [href] @param {() => void} [read] */
function tell(words, href, read) {
  const p = Object.assign(document.createElement("p"), { className: "delivered", textContent: `${words} ` });
  p.setAttribute("role", "status");
  if (href) p.append(Object.assign(document.createElement("a"), { href, textContent: "Decide on it" }));
  if (read) {
    const b = Object.assign(document.createElement("button"), {
      type: "button",
      className: "go",
      textContent: "I have read it",
    });
    b.addEventListener("click", () => {
      read();
      p.remove();
    });
    p.append(b);
  }
  document.querySelector("main")?.prepend(p);
}

// How many of this sign-in's items wait for a decision is told on each page until somebody has opened the page of
// decisions, not only on the page that happened to deliver them.
const waitsKey = `waits:${signIn}`;
const waitsHere = () => Number(sessionStorage.getItem(waitsKey) ?? 0);
const remember = (/** @type {number} */ n) =>
  n ? sessionStorage.setItem(waitsKey, String(n)) : sessionStorage.removeItem(waitsKey);

/** Sends what this device has not sent, whoever is signed in; what became of it is said. */
async function deliver() {
  if (!canKeep || !signIn) return;
  if (Object.keys(localStorage).some((k) => /^(pad|run|calls):/.test(k))) {
    const me = await whoIs();
    if (me) await adopt(me);
  }
  const waiting = await outbox();
  if (waiting.some((s) => !s.refused)) {
    const { answers } = await send("", "");
    const taken = answers.filter((a) => a.taken).length,
      held = answers.filter((a) => a.held).length;
    if (taken)
      tell(
        `${taken} ${taken === 1 ? "item" : "items"} that this device had kept ${taken === 1 ? "was" : "were"} sent.`,
      );
    if (held && location.pathname === "/held") {
      location.reload(); // the page was drawn before they came
      return;
    }
    if (held) remember(waitsHere() + held);
  }
  if (location.pathname === "/held") remember(0);
  if (waitsHere()) tell(itemsWait(waitsHere()), "/held");
  for (const s of await outbox())
    if (s.refused)
      tell(
        `The school refused what this device had kept: ${s.refused.error} ${s.refused.do}`,
        "",
        () => void forgetSealed(s.id),
      );
}

/** The page, once it is read. */
const read = new Promise((done) => {
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", done, { once: true });
  else done(undefined);
});

look()
  .then(() => read)
  .then(deliver)
  .catch(() => {})
  .finally(() => {
    document.documentElement.dataset.looked = "yes";
  });
