import { attachAnswers } from "./answers.js";
import { attachDrafts } from "./drafts.js";
import { attachHelp } from "./help.js";
import { attachKeys } from "./keys.js";
import { attachLine } from "./line.js";
import { attachLive } from "./live.js";
import { attachLanding } from "./land.js";
import { attachLetters, attachOutbox, attachScroll } from "./outbox.js";
import { attachPrint } from "./print.js";
import { attachRehearsal } from "./rehearsal.js";
import { attachSlow } from "./slow.js";
import { attachTimers } from "./timer.js";
import { attachTriage } from "./triage.js";
import { attachWaiting } from "./waiting.js";
import { attachWiring, bringFixes, startWiring } from "./wiring.js";
import { attachZoom } from "./zoom.js";

/** What belongs to the elements of a page; done anew for a page that is shown in its place. */
function attachPage() {
  attachLetters();
  attachHelp();
  attachLine();
  attachDrafts();
  attachAnswers();
  attachWaiting();
  attachTriage();
  attachPrint();
  attachSlow();
  attachZoom();
  attachTimers();
  attachRehearsal();
  attachLive();
  startWiring();
  bringFixes();
}

/** Show a page that the server answered a form with, and go to what is wrong on it. */
function showPage(html) {
  const page = new DOMParser().parseFromString(html, "text/html");
  document.title = page.title;
  document.body.replaceWith(document.adoptNode(page.body));
  attachPage();
  const wrong = document.querySelector("[aria-invalid=true], .fielderror, .hazard[role=alert]");
  wrong?.scrollIntoView({ block: "center" });
  const field = wrong
    ?.closest(".field, .look, form")
    ?.querySelector("input:not([type=hidden]), select, textarea");
  (field ?? document.querySelector("#main"))?.focus({ preventScroll: true });
  if (!wrong) scrollTo(0, 0);
  history.replaceState(null, "", location.href);
}

attachPage();
attachKeys();
attachWiring();
attachOutbox(showPage);
attachScroll();
attachLanding();
