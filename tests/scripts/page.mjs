/** A page without a browser: its document, its storage and a server that answers as a test says. */
import { JSDOM } from "jsdom";

const PAGE = "http://shop.test/jobs/1/trace/";

/** Put a page in place of the browser's globals; returns what was asked of its server. */
export function open(body, { url = PAGE, answer = () => ({}) } = {}) {
  const dom = new JSDOM(`<body data-person="7">${body}</body>`, { url });
  const asked = [];
  const { window } = dom;
  const names = [
    "document",
    "localStorage",
    "sessionStorage",
    "location",
    "FormData",
    "File",
    "DOMParser",
    "Event",
  ];
  for (const name of names) globalThis[name] = window[name];
  globalThis.window = window;
  globalThis.scrollTo = () => {};
  // The outbox looks again every few seconds for as long as a page lives: here only when a test says so.
  globalThis.setInterval = () => 0;
  globalThis.fetch = async (address, options = {}) => {
    asked.push({ address: String(address), ...options });
    const found = answer(asked.length, String(address));
    if (found === null) throw new TypeError("nobody answers");
    return {
      status: 200,
      headers: new Map([["Content-Type", "application/json"], ...(found.headers ?? [])]),
      json: async () => found,
      text: async () => found.html ?? "",
    };
  };
  return asked;
}

/** Wait until something holds; the test's own time limit ends it. */
export async function until(holds) {
  while (!holds()) await new Promise((next) => setImmediate(next));
}
