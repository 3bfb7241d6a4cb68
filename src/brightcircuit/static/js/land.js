/**
 * After a form was sent, focus and view go to the next thing to do on the page that comes: what is marked
 * `data-next`, else the bar that leads to another station, else the heading. Without it the page begins at its top.
 */
const LANDING = "landing";

/** Say that the page which comes now is the answer to a form. */
export function willLand() {
  sessionStorage.setItem(LANDING, "1");
}

/** What is to be done next on this page. */
export function nextThing() {
  const named =
    location.hash.length > 1 && document.getElementById(decodeURIComponent(location.hash.slice(1)));
  if (named) return named;
  const every = [...document.querySelectorAll("[data-next]")];
  return (
    every.find((one) => one.getClientRects().length > 0) ?? document.querySelector(".nextbar a, main h1")
  );
}

/** The first thing to fill in or to press at what is to be done next. */
export function nextAct() {
  const next = nextThing();
  const place = next?.closest("[data-act]") ?? next?.parentElement;
  const open =
    "input[name=gate]:not(:checked), input:not([type=hidden]):not([type=checkbox]), select, textarea, button.main";
  const form =
    place?.querySelector("form.entry, form.setentry, form[method=post]") ??
    document.querySelector("main form.entry, main form.setentry, main form[method=post]");
  return form?.querySelector(open) ?? place?.querySelector(".main") ?? next;
}

/** Put the focus on something and bring it into view, whatever it is. */
export function focusOn(thing) {
  if (!thing) return;
  if (!thing.matches("a, button, input, select, textarea, summary")) thing.setAttribute("tabindex", "-1");
  thing.focus({ preventScroll: true });
  const box = thing.getBoundingClientRect();
  if (box.top < 0 || box.bottom > innerHeight) thing.scrollIntoView({ block: "start" });
}

/** The tab of the station is in view where the tabs are wider than the page. */
function showTab() {
  const tab = document.querySelector(".rail a[aria-current]");
  const rail = tab?.parentElement;
  if (rail && rail.scrollWidth > rail.clientWidth) {
    rail.scrollLeft = tab.offsetLeft - (rail.clientWidth - tab.offsetWidth) / 2;
  }
}

export function attachLanding() {
  showTab();
  if (!sessionStorage.getItem(LANDING)) return;
  sessionStorage.removeItem(LANDING);
  focusOn(nextThing());
}
