// A form whose text must not be lost (data-kept): it is sealed on this device before it is sent, and forgotten here
// once
// the school has it, or has said why it does not want it. Without HTTPS it is an ordinary form.
import { newId } from "./ids.js";
import { canKeep, put, send, whoIs } from "./keep.js";

for (const form of document.querySelectorAll("form[data-kept]")) {
  if (!canKeep || !(form instanceof HTMLFormElement)) continue;
  const who = whoIs().catch(() => null);
  form.addEventListener("submit", async (e) => {
    e.preventDefault();
    const me = await who;
    if (!me) return form.submit();
    const says = Object.assign(document.createElement("p"), { className: "soft" });
    says.setAttribute("role", "status");
    const fields = new URLSearchParams();
    for (const [k, v] of new FormData(form)) fields.set(k, String(v));
    const id = fields.get("id") || newId();
    try {
      await put(me, form.dataset.kept ?? "note", id, {
        path: new URL(form.action).pathname,
        type: "application/x-www-form-urlencoded",
        body: String(fields),
      });
    } catch {
      return form.submit(); // this device keeps nothing: as an ordinary form
    }
    try {
      const { answers, signedOut } = await send("", "");
      const a = answers.find((x) => x.id === id);
      if (a?.taken) return location.reload();
      says.textContent = signedOut
        ? "The sign-in has ended. What you wrote is kept on this device, and is sent once you sign in."
        : a?.held
          ? "What you wrote waits for a decision: it was written under an earlier sign-in."
          : `${a?.error ?? "The school did not answer."} What you wrote is kept on this device.`;
    } catch {
      says.textContent = "There is no network. What you wrote is kept on this device, and is sent when there is one.";
    }
    form.after(says);
    form.reset();
  });
}
