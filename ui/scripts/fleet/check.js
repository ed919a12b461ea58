// The check before a flight: brings the next question into view, and runs the
// timers of what is checked in the air. It judges nothing.

let asked = "";

/** Shows the question that is next, unless it was shown already. */
function toNext() {
  const check = document.getElementById("check");
  if (!(check instanceof HTMLElement)) return;
  const next = check.dataset.next ?? "";
  if (next === asked) return;
  const first = asked === "";
  asked = next;
  if (first) return; // the page has just come: its top is what is read
  const item = next ? document.getElementById(`item-${next}`) : check.querySelector(".clear-form");
  if (!(item instanceof HTMLElement)) return;
  item.scrollIntoView({
    block: "center",
    behavior: matchMedia("(prefers-reduced-motion: reduce)").matches ? "auto" : "smooth",
  });
  const field = item.querySelector("button:not([disabled]), input:not([type=hidden])");
  if (field instanceof HTMLElement) field.focus({ preventScroll: true });
}
document.addEventListener("DOMContentLoaded", toNext);
document.addEventListener("htmx:afterSettle", toNext);

document.addEventListener("click", (e) => {
  const b = e.target instanceof HTMLElement ? e.target.closest("[data-timer]") : null;
  if (!(b instanceof HTMLButtonElement) || b.disabled) return;
  const seconds = Number(b.dataset.timer);
  const begun = performance.now();
  b.disabled = true;
  const tick = () => {
    const left = Math.ceil(seconds - (performance.now() - begun) / 1000);
    if (left > 0 && b.isConnected) {
      b.textContent = `${left} s`;
      setTimeout(tick, 200);
    } else {
      b.textContent = "time";
      b.disabled = false;
      navigator.vibrate?.(200);
    }
  };
  tick();
});
