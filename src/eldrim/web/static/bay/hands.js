// Keys, a foot switch, taps: everything a gloved hand does that is not a form.

import { converted } from "./rules.js";
import { run } from "./run.js";
import * as sound from "./sound.js";
import { canClose, card, inHand, look, openAgain, render, showCurrent } from "./view.js";

function confirmStep() {
  if (!canClose()) {
    showCurrent();
    return;
  }
  const form = card().querySelector("[data-done]");
  const open = [...form.querySelectorAll("input[type=checkbox]")].find((box) => !box.checked);
  if (open) {
    open.checked = true;
    sound.ticked();
  } else form.requestSubmit();
}

function turnSound() {
  sound.turn();
  render();
}

const KEYS = { " ": confirmStep, ",": () => look(-1), ".": () => look(1), n: showCurrent, m: turnSound };

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  // A foot switch sends this one, also while a number is typed.
  if (event.key === "PageDown") {
    event.preventDefault();
    confirmStep();
    return;
  }
  if (event.target.closest("input:not([type=checkbox]), select, textarea")) return;
  if (event.key === " " && event.target.closest("button, a, summary")) return;
  if (KEYS[event.key]) {
    event.preventDefault();
    KEYS[event.key]();
  }
});

const TAPS = {
  "[data-confirm]": () => {
    if (canClose()) card().querySelector("[data-done]").requestSubmit();
    else showCurrent();
  },
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
  field.focus();
}

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
    if (Math.abs(across) > LEAST_DRAWN && Math.abs(across) > 3 * Math.abs(down)) look(across < 0 ? 1 : -1);
  },
  { passive: true },
);
