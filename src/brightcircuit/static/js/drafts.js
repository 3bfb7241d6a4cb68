/**
 * Keeps what is typed in this browser until the server has confirmed it, and puts it back over what the page
 * brings. Without it a page that is reloaded is empty.
 */
const UNTYPED = ["hidden", "file", "password", "submit", "button"];

const person = () => document.body.dataset.person || "";

function typedFields(form) {
  return [...form.elements].filter((field) => {
    const caution = field.type === "checkbox" && field.name === "gate";
    return field.name && !UNTYPED.includes(field.type) && !caution;
  });
}

const chosen = (field) => field.type === "checkbox" || field.type === "radio";

function valuesOf(form) {
  return typedFields(form).map((field) => [field.name, field.value, chosen(field) ? field.checked : null]);
}

/** Return the forms whose typing is kept: all that change something and are not marked as plain. */
export function keptForms() {
  return [...document.querySelectorAll("form[method=post]:not([data-plain])")];
}

/** Return where a form is sent; a field may be called `action`, so the property of that name is no help. */
export const addressOf = (form) => new URL(form.getAttribute("action") || location.href, location.href).href;

/** Hidden fields that say how a page stood, and not what a form is about. */
const PASSING = [
  "csrfmiddlewaretoken",
  "version",
  "base",
  "next",
  "client",
  "was",
  "at",
  "count",
  "value",
  "words",
];

/** What a form is about: the bike, the part, the row, the test that it names without showing it. */
function aboutOf(form) {
  return [...form.elements]
    .filter((field) => field.type === "hidden" && field.name && !PASSING.includes(field.name))
    .map((field) => `${field.name}=${field.value}`)
    .join("&");
}

function plainKey(form) {
  const place = form.dataset.keep ?? `${location.pathname}#${new URL(addressOf(form)).pathname}`;
  return `draft:${person()}:${place}#${aboutOf(form)}`;
}

/**
 * Return the key of a form's draft: its own name, or the page and where it is sent, and in both cases what it is
 * about. What was typed for one bike, row or test never turns up at another.
 */
export function draftKey(form) {
  const key = plainKey(form);
  const before = keptForms().filter((other) => plainKey(other) === key);
  const nth = before.indexOf(form);
  return nth > 0 ? `${key}#${nth}` : key;
}

/** Forget a draft, unless something was typed into it after the moment given. */
export function clearDraft(key, before = Infinity) {
  const draft = JSON.parse(localStorage.getItem(key) ?? "null");
  if (draft && draft.at <= before) localStorage.removeItem(key);
}

function store(form, key) {
  const test = form.elements.namedItem("test")?.value ?? "";
  localStorage.setItem(key, JSON.stringify({ test, at: Date.now(), values: valuesOf(form) }));
}

/** Put a draft back; returns whether that changed anything on the page. */
function restore(form, draft) {
  let changed = false;
  for (const [name, value, on] of draft.values) {
    for (const field of typedFields(form).filter((item) => item.name === name)) {
      if (on === null && !chosen(field) && field.value !== value) {
        field.value = value;
        changed = true;
      } else if (on !== null && chosen(field) && field.value === value && field.checked !== on) {
        field.checked = on;
        changed = true;
      }
    }
  }
  return changed;
}

function tell(form, key, at) {
  const line = document.createElement("p");
  line.className = "notice draft";
  line.setAttribute("role", "status");
  const time = new Date(at).toTimeString().slice(0, 5);
  line.append(`Typed at ${time} and not saved yet: it stands here again. `);
  const discard = document.createElement("button");
  discard.type = "button";
  discard.className = "quietlink";
  discard.textContent = "Discard it";
  discard.addEventListener("click", () => {
    clearDraft(key);
    location.reload();
  });
  line.append(discard);
  form.prepend(line);
}

export function attachDrafts() {
  for (const form of keptForms()) {
    if (typedFields(form).length === 0) continue;
    const key = draftKey(form);
    const draft = JSON.parse(localStorage.getItem(key) ?? "null");
    const same = draft && draft.test === (form.elements.namedItem("test")?.value ?? "");
    if (same && restore(form, draft)) tell(form, key, draft.at);
    form.addEventListener("input", () => store(form, key));
    form.addEventListener("change", () => store(form, key));
  }
}
