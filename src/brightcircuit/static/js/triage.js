/**
 * "No to all" answers the six questions about one pack at once; saving them stays a step of its own. Without it each
 * is answered by itself.
 */
export function attachTriage() {
  for (const button of document.querySelectorAll("[data-all-no]")) {
    button.hidden = false;
    button.addEventListener("click", () => {
      for (const radio of button.closest("[data-pack]").querySelectorAll("input[value=no]"))
        radio.checked = true;
    });
  }
}
