/** Buttons that print the page. Without scripts they are hidden, and the browser prints. */
export function attachPrint() {
  for (const button of document.querySelectorAll("[data-print]")) {
    button.hidden = false;
    button.addEventListener("click", () => window.print());
  }
}
