/** Choosing one of the possible answers enters it: fills the reading or the looks. */
export function attachAnswers() {
  for (const button of document.querySelectorAll("[data-answer]")) {
    button.addEventListener("click", () => {
      const form = button.closest("form");
      for (const other of form.querySelectorAll("[data-answer]")) other.setAttribute("aria-pressed", String(other === button));
      for (const [name, value] of Object.entries(button.dataset)) {
        if (name === "answer") continue;
        const id = name.replace(/^look/, "").replace(/^[A-Z]/, (letter) => letter.toLowerCase());
        const select = form.querySelector(`#see-${id}`);
        if (select) select.value = value;
      }
      const reading = form.querySelector("[data-reading]");
      if (reading) {
        reading.value = button.dataset.answer;
        reading.focus();
      }
      const choice = form.querySelector(`input[type=radio][value="${button.dataset.answer}"]`);
      if (choice) choice.checked = true;
      form.dispatchEvent(new Event("input", { bubbles: true }));
    });
  }
}
