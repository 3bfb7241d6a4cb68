/**
 * Remembers for a person whether the Line is shown whole or slim, on Trace and elsewhere. Without it Trace shows
 * it whole and every other page slim.
 */
const NARROW = "(max-width: 640px)";

export function attachLine() {
  const box = document.querySelector("details.linebox");
  if (!box) return;
  const key = `line:${document.body.dataset.person}:${box.dataset.line}`;
  const wanted = localStorage.getItem(key);
  if (wanted) box.open = wanted === "open";
  else if (matchMedia(NARROW).matches) box.open = false;
  box.addEventListener("toggle", () => localStorage.setItem(key, box.open ? "open" : "shut"));
}
