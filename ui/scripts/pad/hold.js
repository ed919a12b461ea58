// What must not happen by a drop of rain or a double tap is held for a second.

const holdFor = 1000;

/** Does something once an element was held for a second, by a finger or by its key.
 * @param {HTMLElement} e @param {() => void} then */
export function holds(e, then) {
  /** @type {number | undefined} */
  let timer;
  const begin = () => {
    if (timer !== undefined) return;
    e.classList.add("held");
    timer = window.setTimeout(() => {
      end();
      then();
    }, holdFor);
  };
  const end = () => {
    clearTimeout(timer);
    timer = undefined;
    e.classList.remove("held");
  };
  e.addEventListener("pointerdown", begin);
  for (const t of ["pointerup", "pointerleave", "pointercancel"]) e.addEventListener(t, end);
  e.addEventListener("contextmenu", (x) => x.preventDefault());
  e.addEventListener("keydown", (k) => {
    if (k.key === "Enter" || k.key === " ") {
      k.preventDefault();
      begin();
    }
  });
  e.addEventListener("keyup", end);
  e.addEventListener("blur", end);
}
