// What was closed last can be taken back for ten seconds, beside the button that closed it.

import { state, write } from "./queue.js";
import { byKey, say } from "./run.js";
import { show } from "./view.js";

const STANDS_MS = 10000;
const place = document.querySelector("[data-undo]");
let closed = "";
let waits = null;

// Offers to take back the closing of a step.
export function offerUndo(key) {
  closed = key;
  place.textContent = `${say("bay.undo")}: ${byKey.get(key).text}`;
  place.hidden = false;
  clearTimeout(waits);
  waits = setTimeout(put, STANDS_MS);
}

function put() {
  place.hidden = true;
  closed = "";
}

place.addEventListener("click", () => {
  const closing = state().closings[closed];
  const key = closed;
  put();
  if (!closing) return;
  write({ kind: "reopen", step: key, refers_to: closing.id });
  show(key);
});
