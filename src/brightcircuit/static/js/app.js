import { attachHelp } from "./help.js";
import { attachKeys } from "./keys.js";
import { attachKeep } from "./keep.js";
import { attachAnswers } from "./answers.js";
import { attachWaiting } from "./waiting.js";
import { attachTriage } from "./triage.js";
import { attachPrint } from "./print.js";
import { attachWiring } from "./wiring.js";
import { attachSlow } from "./slow.js";

attachHelp();
attachKeys();
attachKeep();
attachAnswers();
attachWaiting();
attachTriage();
attachPrint();
attachWiring();
attachSlow();
