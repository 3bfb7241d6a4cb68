/**
 * Choosing one of the possible answers enters it: fills the reading, the choice or the looks.
 * Without it the same fields are filled by hand.
 */
function fillLooks(form, looks) {
  for (const pair of looks.split(" ").filter(Boolean)) {
    const [observable, value] = pair.split("=");
    const select = form.elements.namedItem(`see-${observable}`);
    if (select) select.value = value;
  }
}

function fillReading(form, value) {
  const reading = form.querySelector("[data-reading]");
  if (reading) {
    reading.value = value;
    reading.focus();
  }
  const choice = form.querySelector(`input[type=radio][value="${CSS.escape(value)}"]`);
  if (choice) choice.checked = true;
}

export function attachAnswers() {
  for (const button of document.querySelectorAll("[data-answer]")) {
    button.addEventListener("click", () => {
      const form = button.closest("form");
      for (const other of form.querySelectorAll("[data-answer]")) {
        other.setAttribute("aria-pressed", String(other === button));
      }
      if (button.dataset.looks) fillLooks(form, button.dataset.looks);
      else fillReading(form, button.dataset.answer);
      if (!form.querySelector("[data-reading]")) form.querySelector("button.main")?.focus();
      form.dispatchEvent(new Event("input", { bubbles: true }));
    });
  }
}
