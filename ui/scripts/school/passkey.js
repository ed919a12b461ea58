// Signs in with a passkey, or adds one. The server asks, the browser answers, the server judges.

/** @param {string} at @param {unknown} body */
async function send(at, body) {
  const answer = await fetch(at, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
  const data = await answer.json();
  if (!answer.ok) throw new Error(data.error ?? "The server did not answer.");
  return data;
}

/** What went wrong, in words: the browser's own names for it are for developers.
 * @param {unknown} e */
function words(e) {
  if (e instanceof DOMException) {
    if (e.name === "NotAllowedError") return "It was cancelled, or took too long. Nothing was changed.";
    if (e.name === "InvalidStateError") return "This device has a passkey of this account already.";
    return "This device cannot do it here. Use the password.";
  }
  return e instanceof Error ? e.message : "It did not work. Use the password.";
}

const says = document.querySelector("[data-passkey-says]");

/** @param {HTMLFormElement} form @param {() => Promise<void>} act */
function offer(form, act) {
  form.hidden = false;
  if (says) says.textContent = "";
  form.addEventListener("submit", async (e) => {
    e.preventDefault();
    const button = form.querySelector("button");
    if (button) button.disabled = true;
    try {
      await act();
    } catch (problem) {
      if (says) says.textContent = words(problem);
    } finally {
      if (button) button.disabled = false;
    }
  });
}

const can =
  globalThis.isSecureContext &&
  "PublicKeyCredential" in globalThis &&
  "parseRequestOptionsFromJSON" in PublicKeyCredential &&
  !/^[\d.]+$|:/.test(location.hostname);

const form = /** @type {HTMLFormElement | null} */ (document.querySelector("[data-passkey]"));
if (can && form) {
  if (form.dataset.passkey === "add") {
    offer(form, async () => {
      const { publicKey } = await send("/account/passkeys/begin", {});
      const made = /** @type {PublicKeyCredential} */ (
        await navigator.credentials.create({ publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(publicKey) })
      );
      const name = new FormData(form).get("name") ?? "";
      await send(`/account/passkeys?name=${encodeURIComponent(String(name))}`, made.toJSON());
      location.reload();
    });
  } else {
    offer(form, async () => {
      const { publicKey } = await send("/sign-in/passkey/begin", {});
      const proof = /** @type {PublicKeyCredential} */ (
        await navigator.credentials.get({ publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(publicKey) })
      );
      const { to } = await send("/sign-in/passkey", proof.toJSON());
      location.assign(to);
    });
  }
}
