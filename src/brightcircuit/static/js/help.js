/** The dialog with the keys, opened by its button or by `?`. Without it the button does nothing. */
export function attachHelp() {
  const dialog = document.querySelector("dialog.help");
  for (const button of document.querySelectorAll("[data-help]")) {
    button.addEventListener("click", () => dialog.showModal());
  }
}
