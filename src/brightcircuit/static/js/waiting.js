/** While predictions are worked out: shows progress and comes back when the first proposal is ready. */
async function ask(url) {
  const response = await fetch(url, { headers: { Accept: "application/json" } });
  if (!response.ok) throw new Error(String(response.status));
  return response.json();
}

export function attachWaiting() {
  const waiting = document.querySelector("[data-waiting]");
  if (waiting) {
    const timer = setInterval(async () => {
      try {
        const state = await ask(waiting.dataset.waiting);
        waiting.querySelector("progress").value = state.percent;
        if (state.first) {
          clearInterval(timer);
          window.location.reload();
        }
      } catch {
        document.querySelector("[data-offline]").hidden = false;
      }
    }, 400);
  }
  const more = document.querySelector("[data-waiting-all]");
  if (more) {
    const timer = setInterval(async () => {
      try {
        const state = await ask(more.dataset.waitingAll);
        more.textContent = state.all ? "· all tests are worked out; reload for the best" : `· still working out more tests, ${state.percent} %`;
        if (state.all) clearInterval(timer);
      } catch {
        clearInterval(timer);
      }
    }, 1000);
  }
}
