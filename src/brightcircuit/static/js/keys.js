import { focusOn, nextAct } from "./land.js";

/**
 * Single-key shortcuts, unless the person has switched them off or is typing. Without them Tab and Enter reach the
 * same.
 */
export function attachKeys() {
  document.addEventListener("keydown", (event) => {
    const at = /** @type {Element} */ (event.target);
    // A box that was ticked keeps the focus and takes no letters: the next key is a shortcut again.
    const typing = at.closest(
      "input:not([type=checkbox]):not([type=radio]), select, textarea, [contenteditable]",
    );
    if (typing || event.ctrlKey || event.altKey || event.metaKey) return;
    if (event.key === "?") {
      document.querySelector("dialog.help").showModal();
      event.preventDefault();
      return;
    }
    if (document.body.dataset.shortcuts !== "on") return;
    if (event.key === "r") {
      const reading = document.querySelector("[data-reading], .look select") ?? nextAct();
      if (reading) {
        focusOn(reading);
        event.preventDefault();
      }
      return;
    }
    if (event.key === "c") {
      const caution = document.querySelector("main input[name=gate]:not(:checked)");
      if (caution) {
        caution.click();
        caution.focus();
        event.preventDefault();
      }
      return;
    }
    const numbered = document.querySelectorAll("[data-answer], [data-row]");
    const answer = /^[1-9]$/.test(event.key) && numbered[Number(event.key) - 1];
    const link = /^[a-z]$/.test(event.key) && document.querySelector(`a[data-key="${event.key}"]`);
    if (answer || link) {
      (answer || link).click();
      event.preventDefault();
    }
  });
}
