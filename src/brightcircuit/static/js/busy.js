/**
 * A button says what became of its press: that it is sent, for how many seconds already, that it waits. Without it
 * a slow server looks like a press that did not count.
 */
const COUNTED_FROM_S = 2;

export const SENDING = "Sending…";
export const WAITS = "Waiting…";

/** Show on a button that it is sent; returns how to show that it waits, and how to give it back its words. */
export function busy(button) {
  if (!button) return { waits: () => {}, done: () => {} };
  const own = [...button.childNodes];
  const begun = Date.now();
  const say = () => {
    const seconds = Math.round((Date.now() - begun) / 1000);
    button.textContent = seconds < COUNTED_FROM_S ? SENDING : `${SENDING} ${seconds} s`;
  };
  button.setAttribute("aria-busy", "true");
  say();
  const timer = setInterval(say, 1000);
  return {
    waits() {
      clearInterval(timer);
      button.textContent = WAITS;
    },
    done() {
      clearInterval(timer);
      button.removeAttribute("aria-busy");
      button.replaceChildren(...own);
    },
  };
}
