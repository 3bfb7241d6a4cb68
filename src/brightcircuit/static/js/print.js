/** Buttons that print the page; hidden where scripts do not run. */
export function attachPrint() {
  for (const button of document.querySelectorAll("[data-print]")) {
    button.hidden = false;
    button.addEventListener("click", () => window.print());
  }
}
