/**
 * Links to what takes some seconds: they say that it is being worked on, and for how long already. Without it the
 * browser waits in silence.
 */
const LEAST_SHOWN_MS = 400;

function counting(link) {
  const words = link.textContent;
  const begun = performance.now();
  const say = () => {
    const seconds = Math.round((performance.now() - begun) / 1000);
    link.textContent = `${link.dataset.slow} ${seconds} s`;
  };
  link.setAttribute("aria-busy", "true");
  const timer = setInterval(say, LEAST_SHOWN_MS);
  return () => {
    clearInterval(timer);
    link.removeAttribute("aria-busy");
    link.textContent = words;
  };
}

async function fetched(link) {
  const response = await fetch(link.href);
  if (!response.ok) throw new Error(String(response.status));
  const name = /filename="([^"]+)"/.exec(response.headers.get("Content-Disposition") ?? "");
  const saved = document.createElement("a");
  saved.href = URL.createObjectURL(await response.blob());
  saved.download = name ? name[1] : "";
  saved.click();
  URL.revokeObjectURL(saved.href);
}

export function attachSlow() {
  for (const link of document.querySelectorAll("a[data-slow]")) {
    link.addEventListener("click", async (event) => {
      if (event.ctrlKey || event.metaKey || event.shiftKey) return;
      if (link.getAttribute("aria-busy")) {
        event.preventDefault();
        return;
      }
      const done = counting(link);
      window.addEventListener("pageshow", done, { once: true });
      if (!("file" in link.dataset)) return;
      event.preventDefault();
      try {
        await fetched(link);
        done();
      } catch {
        done();
        window.location.assign(link.href);
      }
    });
  }
}
