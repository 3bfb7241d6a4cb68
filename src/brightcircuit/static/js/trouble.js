/**
 * One line at the top that says what stands between this page and the server. Without it the browser's own page
 * does.
 */
const line = () => document.querySelector("[data-trouble]");

/** Show words, with a link where there is one to follow; "" hides the line. */
export function trouble(words, link = null) {
  const place = line();
  if (!place) return;
  place.hidden = !words;
  place.textContent = words;
  if (!link) return;
  const anchor = document.createElement("a");
  anchor.href = link.href;
  anchor.textContent = link.words;
  place.append(" ", anchor);
}

const KEPT = "What you typed is kept here and";

export const OFFLINE = `No connection to the shop’s server. ${KEPT} is sent when it answers again.`;

export const SIGNED_OUT = `You were signed out meanwhile. ${KEPT} stands on this page again after signing in.`;

/** Return the sign-in address that leads back to the page that is shown. */
export function signInHere(address) {
  const found = new URL(address, location.origin);
  found.searchParams.set("next", location.pathname + location.search);
  return found.pathname + found.search;
}
