// Keys, a foot switch, taps: everything a gloved hand does that is not a form.

import { offerNothing, writePending } from "./forms.js";
import { rest, resting } from "./rest.js";
import { converted } from "./rules.js";
import { run } from "./run.js";
import * as sound from "./sound.js";
import {
  canClose,
  card,
  inHand,
  look,
  nameHere,
  oneByOne,
  openAgain,
  openProofs,
  render,
  showCurrent,
} from "./view.js";

// What the large button says: write what stands typed, give the next proof, close, or go to the step
// that can be closed.
function confirmStep() {
  if (resting()) return;
  if (!canClose()) {
    showCurrent();
    return;
  }
  if (!writePending()) return;
  const open = openProofs();
  if (oneByOne() && open.length) {
    open[0].checked = true;
    sound.ticked();
    rest();
    render();
    return;
  }
  for (const proof of open) proof.checked = true;
  card().querySelector("[data-done]").requestSubmit();
}

function turnSound() {
  sound.turn();
  render();
}

// Where a blank is written, or presses what has the focus. A figure or a day has no blanks, and a
// pick that was just picked is not pressed again.
const takesSpace = (at) =>
  at.closest("input:not([inputmode=decimal], [type=date], [type=checkbox]), select, textarea, summary, a") ||
  at.closest("button:not(.pick[name=value], [data-confirm])");

const KEYS = { ",": () => look(-1), ".": () => look(1), n: showCurrent, m: turnSound };

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  // A foot switch sends this one, also while a number is typed.
  if (event.key === "PageDown" || (event.key === " " && !takesSpace(event.target))) {
    event.preventDefault();
    if (!event.repeat) confirmStep();
    return;
  }
  if (event.target.closest("input:not([type=checkbox]), select, textarea")) return;
  if (KEYS[event.key]) {
    event.preventDefault();
    KEYS[event.key]();
  }
});

const TAPS = {
  "[data-confirm]": confirmStep,
  "[data-reopen]": openAgain,
  "[data-back]": () => look(-1),
  "[data-on]": () => look(1),
  "[data-sound]": turnSound,
};

document.addEventListener("click", (event) => {
  for (const [what, act] of Object.entries(TAPS)) if (event.target.closest(what)) act();
  const scale = event.target.closest("svg[data-scale]");
  if (scale?.closest(".step-card")) tapScale(scale, event);
});

// A tap on the drawn scale is the value under it, on the graduation.
function tapScale(scale, event) {
  const [from, to, left, right, wide, grade] = scale.dataset.scale.split(" ").map(Number);
  const box = scale.getBoundingClientRect();
  const x = ((event.clientX - box.left) / box.width) * wide;
  const value = from + ((x - left) / (right - left)) * (to - from);
  const field = [...card().querySelectorAll(".reading-form input[inputmode=decimal]")].at(-1);
  if (!field) return;
  const asked = inHand().readings.find((r) => r.key === field.form.elements.reading.value);
  const snapped = Number((Math.round(value / grade) * grade).toFixed(3));
  field.value = String(converted(run.rules.units, snapped, scale.dataset.unit, asked.unit) ?? snapped);
  field.dataset.how = "tapped";
  field.focus();
}

// Touched, a field is ready to be typed over: 17.5 does not become 17.518.
document.addEventListener("focusin", (event) => {
  if (event.target.matches(".reading-form input[name=value]:not([type=date])")) event.target.select();
});
document.addEventListener("input", (event) => {
  if (!event.target.matches(".reading-form input[name=value]")) return;
  event.target.dataset.how = "typed";
  offerNothing(event.target.closest(".reading-box"));
  render();
});
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-done] input")) render();
});

// Typed and not written down: it is asked before the page is left.
window.addEventListener("beforeunload", (event) => {
  const typed = [...document.querySelectorAll(".reading-form input[name=value]")].some(
    (field) => field.dataset.how === "typed" && field.value.trim() && field.value !== field.dataset.wrote,
  );
  if (typed) event.preventDefault();
});

// A finger drawn across looks one step on or back; not on a drawing that is tapped or a field.
const LEAST_DRAWN = 90;
let touched = null;
document.addEventListener(
  "touchstart",
  (event) => {
    const at = event.touches[0];
    const free = event.touches.length === 1 && !event.target.closest("svg[data-scale], input, video, select");
    touched = free ? { x: at.clientX, y: at.clientY } : null;
  },
  { passive: true },
);
document.addEventListener(
  "touchend",
  (event) => {
    if (!touched) return;
    const at = event.changedTouches[0];
    const [across, down] = [at.clientX - touched.x, at.clientY - touched.y];
    touched = null;
    if (Math.abs(across) <= LEAST_DRAWN || Math.abs(across) <= 3 * Math.abs(down)) return;
    look(across < 0 ? 1 : -1);
    nameHere();
  },
  { passive: true },
);
