// What the pad says aloud, and what the keys of a clicker do: chosen once for a device.
import { actions, keysOf, learn, listenToHeadset, unlearn } from "./keys.js";
import { isOff, kinds, turn } from "./say.js";

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));

/** Draws the settings anew. */
export function settings() {
  el("say-kinds").replaceChildren(
    ...Object.entries(kinds).map(([kind, words]) => {
      const label = document.createElement("label"),
        box = Object.assign(document.createElement("input"), { type: "checkbox", checked: !isOff(kind) });
      box.addEventListener("change", () => turn(kind, box.checked));
      label.append(box, ` ${words}`);
      return label;
    }),
  );
  el("key-kinds").replaceChildren(
    ...Object.entries(actions).map(([action, words]) => {
      const row = document.createElement("p"),
        choose = Object.assign(document.createElement("button"), { type: "button", textContent: words }),
        none = Object.assign(document.createElement("button"), { type: "button", textContent: "take the key away" });
      const has = Object.assign(document.createElement("span"), {
        className: "data",
        textContent: keysOf(action).join(", ") || "no key",
      });
      choose.addEventListener("click", () => {
        learn(action);
        choose.blur();
        listenToHeadset();
        el("key-says").textContent = `Press the key for “${words}”.`;
      });
      none.className = choose.className = "plain";
      none.hidden = keysOf(action).length === 0;
      none.addEventListener("click", () => {
        unlearn(action);
        settings();
      });
      row.append(choose, has, none);
      return row;
    }),
  );
}
