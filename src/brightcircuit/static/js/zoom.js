/**
 * A drawing that is worked in: larger and smaller by buttons, wheel with Ctrl, or two fingers; moved by dragging
 * or by the keys of its scroll box. Without this script it stands at its standard size and scrolls.
 */

const STEP = 1.25;
const MOST = 3;

function setZoom(box, zoom, at) {
  const drawing = box.querySelector("svg");
  const least = Math.min(1, box.clientWidth / Number(drawing.getAttribute("width")));
  const old = Number(box.dataset.zoom || 1);
  const fresh = Math.min(MOST, Math.max(least, zoom));
  const point = at ?? { x: box.clientWidth / 2, y: box.clientHeight / 2 };
  const [x, y] = [(box.scrollLeft + point.x) / old, (box.scrollTop + point.y) / old];
  drawing.style.width = `${Number(drawing.getAttribute("width")) * fresh}px`;
  drawing.style.height = "auto";
  box.dataset.zoom = String(fresh);
  box.scrollTo(x * fresh - point.x, y * fresh - point.y);
}

function place(box, event) {
  const frame = box.getBoundingClientRect();
  return { x: event.clientX - frame.left, y: event.clientY - frame.top };
}

function act(box, what) {
  const zoom = Number(box.dataset.zoom || 1);
  if (what === "in") setZoom(box, zoom * STEP);
  if (what === "out") setZoom(box, zoom / STEP);
  if (what === "fit") setZoom(box, 0);
  if (what === "standard") setZoom(box, 1);
}

/** Two fingers: the drawing follows their distance. One finger or the mouse on empty ground moves it. */
function attachFingers(box) {
  const fingers = new Map();
  let spread = 0;
  const distance = () => {
    const [a, b] = [...fingers.values()];
    return Math.hypot(a.x - b.x, a.y - b.y);
  };
  box.addEventListener("pointerdown", (event) => {
    fingers.set(event.pointerId, place(box, event));
    if (fingers.size === 2) spread = distance();
  });
  box.addEventListener("pointermove", (event) => {
    const before = fingers.get(event.pointerId);
    if (!before) return;
    const now = place(box, event);
    fingers.set(event.pointerId, now);
    if (fingers.size === 2 && spread > 0) {
      const fresh = distance();
      setZoom(box, Number(box.dataset.zoom || 1) * (fresh / spread), now);
      spread = fresh;
    } else if (event.pointerType === "mouse" && event.buttons === 1) {
      box.scrollBy(before.x - now.x, before.y - now.y);
    }
  });
  for (const end of ["pointerup", "pointercancel", "pointerleave"]) {
    box.addEventListener(end, (event) => fingers.delete(event.pointerId));
  }
}

/** Bring something of the drawing into the middle of its box. */
export function showInBox(element) {
  const box = element?.closest("[data-zoom-box]");
  if (!box) return;
  const [inner, outer] = [element.getBoundingClientRect(), box.getBoundingClientRect()];
  box.scrollBy(
    inner.left + inner.width / 2 - (outer.left + outer.width / 2),
    inner.top + inner.height / 2 - (outer.top + outer.height / 2),
  );
}

export function attachZoom() {
  for (const box of document.querySelectorAll("[data-zoom-box]")) {
    box.addEventListener(
      "wheel",
      (event) => {
        if (!event.ctrlKey) return;
        event.preventDefault();
        setZoom(box, Number(box.dataset.zoom || 1) * Math.exp(-event.deltaY / 300), place(box, event));
      },
      { passive: false },
    );
    attachFingers(box);
    for (const button of document.querySelectorAll("[data-zoom-to]")) {
      button.hidden = false;
      button.addEventListener("click", () => act(box, button.dataset.zoomTo));
    }
  }
}
