import { OFFLINE, SIGNED_OUT, signInHere, trouble } from "./trouble.js";

/**
 * While predictions are worked out: shows progress and comes back when the first proposal is ready. Without it the
 * page is loaded again by hand.
 */
async function ask(url) {
  const response = await fetch(url, { headers: { Accept: "application/json" } });
  if (response.redirected) {
    trouble(SIGNED_OUT, { href: signInHere("/sign-in/"), words: "Sign in" });
    return null;
  }
  if (!response.ok) throw new Error(String(response.status));
  return response.json();
}

export function attachWaiting() {
  const waiting = document.querySelector("[data-waiting]");
  if (waiting) {
    const timer = setInterval(async () => {
      try {
        const state = await ask(waiting.dataset.waiting);
        if (!state) return clearInterval(timer);
        waiting.querySelector("progress").value = state.percent;
        if (state.first) {
          clearInterval(timer);
          window.location.reload();
        }
      } catch (error) {
        if (error instanceof TypeError) trouble(OFFLINE);
        else clearInterval(timer);
      }
    }, 400);
  }
  const more = document.querySelector("[data-waiting-all]");
  if (more) {
    const timer = setInterval(async () => {
      try {
        const state = await ask(more.dataset.waitingAll);
        if (!state) return clearInterval(timer);
        more.textContent = state.all
          ? "· all tests are worked out; reload for the best"
          : `· still working out more tests, ${state.percent} %`;
        if (state.all) clearInterval(timer);
      } catch {
        clearInterval(timer);
      }
    }, 1000);
  }
}
