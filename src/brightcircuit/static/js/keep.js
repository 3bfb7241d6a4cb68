/** Keeps what is typed in the browser until the server has it: survives a reload or a lost connection. */
function fieldsOf(form) {
  return [...form.elements].filter((field) => field.name && !["hidden", "file", "password", "submit"].includes(field.type) && !(field.type === "checkbox" && field.name === "gate"));
}

function store(form, key) {
  const test = form.elements.test?.value ?? "";
  const values = fieldsOf(form).map((field) => [field.name, field.type === "checkbox" || field.type === "radio" ? field.checked : field.value, field.value]);
  localStorage.setItem(key, JSON.stringify({ test, values }));
}

function restore(form, key) {
  const kept = JSON.parse(localStorage.getItem(key) ?? "null");
  if (!kept || kept.test !== (form.elements.test?.value ?? "")) return;
  for (const [name, value, option] of kept.values) {
    for (const field of fieldsOf(form).filter((item) => item.name === name)) {
      if (field.type === "checkbox" || field.type === "radio") {
        if (field.value === option) field.checked = field.checked || value;
      } else if (!field.value) {
        field.value = value;
      }
    }
  }
}

async function send(event, form, key) {
  if (!navigator.onLine) {
    event.preventDefault();
    document.querySelector("[data-offline]").hidden = false;
    return;
  }
  store(form, key);
  sessionStorage.setItem("sent", key);
}

export function attachKeep() {
  const sent = sessionStorage.getItem("sent");
  sessionStorage.removeItem("sent");
  const refused = document.querySelector("[role=alert].fielderror, .hazard[role=alert] .problems");
  if (sent && !refused) localStorage.removeItem(sent);
  for (const form of document.querySelectorAll("form[data-keep]")) {
    const key = `keep:${form.dataset.keep}`;
    restore(form, key);
    form.addEventListener("input", () => store(form, key));
    form.addEventListener("submit", (event) => send(event, form, key));
  }
  window.addEventListener("online", () => (document.querySelector("[data-offline]").hidden = true));
}
