/** A timer counts down where it stands. Without it the page says the minutes that were left when it was loaded. */
export function attachTimers() {
  for (const place of document.querySelectorAll("[data-due]")) {
    const due = Date.parse(place.dataset.due);
    const show = () => {
      const left = Math.max(0, Math.round((due - Date.now()) / 1000));
      const [minutes, seconds] = [Math.floor(left / 60), left % 60];
      place.textContent = `${String(minutes).padStart(2, "0")}:${String(seconds).padStart(2, "0")}`;
      if (left && place.isConnected) setTimeout(show, 1000);
    };
    show();
  }
}
