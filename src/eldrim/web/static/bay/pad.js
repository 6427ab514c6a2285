// A pad of figures at the foot, for gloved hands: what is tapped goes into the field in hand, which
// nobody has to touch first. A unit, a minus or a fraction is typed in the field itself.

import { isHeard } from "./devices.js";
import { button, run, say } from "./run.js";
import { canClose, card, inHand, onRender } from "./view.js";

const BACK = "⌫";
const PRESSED_MS = 400;
const FIGURES = [..."1234567890", run.decimal, BACK];
const place = document.getElementById("pad");
const byTouch = window.matchMedia("(pointer: coarse)");
let field = null;
let pressed = -PRESSED_MS;
// The next figure begins anew: what stands there was judged, or is of another field.
let fresh = true;

// The number the step asks for, of those no device sends: the one in hand until it is written, else
// the first that is empty.
function asked() {
  const fields = [...card().querySelectorAll(".reading-box:not([hidden]) .reading-form input[inputmode=decimal]")];
  const open = fields.filter((f) => f.value === "" || (f === field && f.value !== f.dataset.wrote));
  const ours = open.filter((f) => f.value !== "" || !isHeard(f.form.elements.reading.value));
  return ours.includes(field) ? field : (ours[0] ?? null);
}

// Scrolled on to what is picked, the pad is out of the way; back at the top it is there again.
const atThePicks = () =>
  card().querySelector(".reading-box:not([hidden]) fieldset .pick[name=value]") && window.scrollY > 0;

const isTyped = (at) => Boolean(at?.matches("input:not([type=checkbox]), textarea, select"));

function renderPad() {
  // Where a field has the cursor the keyboard of the tablet is there already.
  const typing = isTyped(document.activeElement) || performance.now() - pressed < PRESSED_MS;
  const now = byTouch.matches && !typing && canClose() && !atThePicks() ? asked() : null;
  if (now !== field) {
    field?.classList.remove("in-hand");
    now?.classList.add("in-hand");
    fresh = true;
  }
  field = now;
  place.hidden = !field;
  if (!field) return;
  const reading = inHand().readings.find((r) => r.key === field.form.elements.reading.value);
  place.setAttribute("aria-label", say("bay.pad", { label: reading.label }));
}

function figure(said) {
  const had = fresh ? "" : field.value;
  fresh = false;
  field.value = said === BACK ? had.slice(0, -1) : `${had}${said}`;
  field.dispatchEvent(new Event("input", { bubbles: true }));
}

place.append(
  ...FIGURES.map((said) => {
    const key = button("figure", said, () => figure(said));
    if (said === BACK) key.setAttribute("aria-label", say("bay.pad_back"));
    return key;
  }),
);
// Judged and still here, it is typed over.
for (const judged of ["submit", "click"])
  document.addEventListener(judged, (event) => {
    if (judged === "submit" || event.target.closest("[data-confirm]")) fresh = true;
  });
// What takes the cursor away is pressed just now: the pad does not come up under the finger.
document.addEventListener("focusin", (event) => {
  if (isTyped(event.target)) renderPad();
});
document.addEventListener("focusout", (event) => {
  if (!isTyped(event.target)) return;
  pressed = performance.now();
  setTimeout(renderPad, PRESSED_MS + 20);
});
document.addEventListener("onward", (event) => {
  field?.classList.remove("in-hand");
  field = event.target;
  field.classList.add("in-hand");
  fresh = true;
  renderPad();
});
for (const changed of ["heard", "scroll"]) document.addEventListener(changed, renderPad, { passive: true });
byTouch.addEventListener("change", renderPad);
onRender(renderPad);
renderPad();
