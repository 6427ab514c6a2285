// Too hot to start: the readings of the step say when it will not be, and the time runs down.

import { isLinked, state, unsent } from "./queue.js";
import { waiting } from "./rules.js";
import { api, byKey, cardOf, clock, run, say, shown, steps } from "./run.js";
import * as sound from "./sound.js";

let drawn = "";
let rung = 0;

export function renderWaiting(now, here) {
  const banner = document.getElementById("waiting");
  banner.hidden = true;
  for (const step of steps) {
    const found = waiting(step, now, run.rules.cooling);
    if (step.key === here.key) renderPanel(step, found, now);
    if (!found || step.key in now.closings) continue;
    ring(found);
    if (step.key === here.key) continue;
    banner.hidden = false;
    banner.textContent = `${step.text}: ${headline(found)} ${left(found)}`;
  }
}

function renderPanel(step, found, now) {
  const card = cardOf(step.key);
  const place = card.querySelector("[data-waiting]");
  if (!place) return;
  const curve = card.querySelector("[data-curve]");
  curve.hidden = !found?.ready;
  const air = card.querySelector('[data-reading="air"]');
  if (air) air.hidden = !found && !(`${step.key}|air` in now.values);
  place.hidden = !found;
  if (!found) return;
  place.querySelector("[data-clock]").textContent = left(found);
  place.querySelector("[data-said]").textContent = headline(found);
  const seen = found.seen.map((s) =>
    say("wait.seen", { value: shown(s.value), unit: found.reading.unit, at: clock(s.at) }),
  );
  place.querySelector("[data-seen]").textContent = seen.join(" · ");
  draw(curve, step, found);
}

function headline(found) {
  const high = `${shown(found.reading.high)} ${found.reading.unit}`;
  if (found.cold) return say("wait.cold", { low: `${shown(found.reading.low)} ${found.reading.unit}` });
  if (found.lacks === "never") return say("wait.never", { air: shown(found.air), high });
  if (found.lacks === "second") return say("wait.second", { at: clock(found.again), high });
  if (found.lacks === "air") return say("wait.air");
  const until = found.until
    ? ` ${say("wait.until", { at: clock(found.until), low: `${shown(found.reading.low)} ${found.reading.unit}` })}`
    : "";
  return `${say("wait.ready", { at: clock(found.ready), high })}${until}`;
}

// What is left, as minutes and seconds; words once it is over.
function left(found) {
  const end = found.ready ?? (found.lacks === "second" ? found.again : null);
  if (!end) return "";
  const seconds = Math.max(0, Math.round((end - Date.now()) / 1000));
  if (!seconds) return say("wait.now");
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}

function ring(found) {
  const end = found.ready ?? (found.lacks === "second" ? found.again : null);
  if (!end || Date.now() < end || rung === end) return;
  rung = end;
  sound.ready();
}

// The curve comes from the server; without the link the time runs down without it.
async function draw(curve, step, found) {
  const asked = `${found.seen.length} ${found.air}`;
  if (drawn === asked || !found.ready || unsent() || !isLinked()) return;
  drawn = asked;
  try {
    const answer = await fetch(`${api}/cooling?step=${encodeURIComponent(step.key)}`);
    curve.innerHTML = answer.ok ? (await answer.json()).drawing : "";
  } catch {
    drawn = "";
  }
}

window.setInterval(() => {
  const now = state();
  if (!steps.some((s) => waiting(s, now, run.rules.cooling))) return;
  renderWaiting(now, byKey.get(document.querySelector(".step-card").dataset.step));
}, 1000);
