/** The dialog with the keys, opened by its button or by `?`. */
export function attachHelp() {
  const dialog = document.querySelector("dialog.help");
  document.querySelector("[data-help]")?.addEventListener("click", () => dialog.showModal());
}
