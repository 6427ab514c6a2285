// What the forms of a step write down, judged before it is written.

import { keepPhoto } from "./photos.js";
import { post, renew, state, write } from "./queue.js";
import { closingBlockers, converted, number, outside, sameSerial, signingBlockers } from "./rules.js";
import { api, run, say, shown, steps } from "./run.js";
import { card, inHand, refuse, showCurrent } from "./view.js";

document.addEventListener("submit", (event) => {
  const form = event.target;
  const kind = form.dataset.entry;
  if (!kind && !form.matches("[data-pin]")) return;
  event.preventDefault();
  if (!kind) byLead(form);
  else if (kind === "reading") writeReading(form, event.submitter);
  else if (kind === "done" || kind === "sign") close(form, kind);
  else if (kind === "release") write({ kind, step: inHand().key });
  else writeMarked(form, kind, event.submitter);
});

// Why a value is outside its window, in words; empty when it is inside.
function outsideWords(reading, value) {
  if (reading.key === "serial" && run.serial && !sameSerial(value, run.serial)) {
    return say("refuse.plate", { value, serial: run.serial });
  }
  const way = outside(reading, value);
  if (!way) return "";
  const limit = way === "under" ? reading.low : reading.high;
  return say(`bay.${way}`, {
    said: `${reading.label} ${shown(value)} ${reading.unit}`.trim(),
    limit: `${shown(limit)} ${reading.unit}`.trim(),
    why: reading.why_limit ? `: ${reading.why_limit}` : "",
  });
}

// What was typed, as a value in the unit asked for; `note` keeps it as typed where that was another
// one, `refused` says what is wrong with it.
function understood(reading, typed) {
  const { label, unit } = reading;
  if (reading.kind !== "number")
    return typed.trim() ? { value: typed.trim() } : { refused: say("refuse.empty", { label }) };
  const found = number(typed);
  if (!found)
    return { refused: say("refuse.not_number", { label, value: typed, unit: unit || say("refuse.figures") }) };
  if (!found.unit) return { value: found.value };
  const value = converted(run.rules.units, found.value, found.unit, unit);
  if (value === null)
    return { refused: say("refuse.other_unit", { label, unit: found.unit, wanted: unit || say("refuse.figures") }) };
  return value === found.value ? { value } : { value, note: typed.trim() };
}

export function writeReading(form, button = null) {
  const box = form.closest(".reading-box");
  const reading = inHand().readings.find((r) => r.key === form.elements.reading.value);
  const typed = button?.name === "value" ? button.value : form.elements.value.value;
  const { value, note, refused } = understood(reading, typed);
  card().querySelector("[data-why]").hidden = true;
  if (refused) return refuse(refused);
  const why = outsideWords(reading, value);
  box.classList.toggle("wrong", why !== "" && !reading.awaited);
  offerDeviation(box, typed, why !== "" && !reading.awaited);
  advise(box, reading.key, value);
  const entry = { step: inHand().key, reading: reading.key, value, unit: reading.unit, ...(note && { note }) };
  if (why && !reading.awaited) return refuse(why);
  if (!write({ kind: why ? "watch" : "reading", ...entry })) return;
  // Outside its window and waited for: the air is asked for next, the clock says the rest.
  if (why) form.elements.value.value = "";
  onward(form.elements.value);
}

function offerDeviation(box, typed, wanted) {
  const form = box.querySelector(".deviate");
  if (!form) return;
  form.hidden = !wanted;
  form.elements.value.value = typed;
  // The reasons to pick from, clear of the foot of the page.
  if (wanted) requestAnimationFrame(() => form.scrollIntoView({ block: "center" }));
}

// To the next field that is still empty, else to the proofs.
function onward(from) {
  const fields = [...card().querySelectorAll(".reading-box:not([hidden]) .reading-form input[name=value]")];
  const next =
    fields.find((i) => i.value === "" && i !== from) ??
    card().querySelector("[data-done] button, [data-done] input[type=checkbox]");
  next?.focus();
}

async function writeMarked(form, kind, button) {
  const entry = { kind, step: inHand().key, reason: button.value, shown: button.innerText.trim() };
  const note = form.elements.note?.value.trim();
  if (note) entry.note = note;
  if (kind === "deviation") {
    const reading = inHand().readings.find((r) => r.key === form.elements.reading.value);
    Object.assign(entry, {
      reading: reading.key,
      value: understood(reading, form.elements.value.value).value,
      unit: reading.unit,
    });
    form.hidden = true;
    form.closest(".reading-box").classList.remove("wrong");
    card().querySelector("[data-why]").hidden = true;
  }
  const file = form.elements.photo?.files?.[0];
  try {
    if (file) entry.photo_here = await keepPhoto(file);
  } catch {
    return refuse(say("bay.full"));
  }
  if (!write(entry)) return;
  form.reset();
  form.closest("details")?.removeAttribute("open");
  if (kind === "skip") showCurrent();
}

function close(form, kind) {
  const step = inHand();
  const checks = [...form.querySelectorAll("input[name=checks]:checked")].map((b) => b.value);
  const why = kind === "sign" ? openAtSigning(step, checks) : openHere(step, checks);
  if (why) return refuse(why);
  if (write({ kind, step: step.key, checks }) && kind === "done") showCurrent();
}

// At the signing everything still open is listed, not only the gravest.
function openAtSigning(step, checks) {
  const blockers = signingBlockers(steps, step, state());
  return blockers.length ? blockers.map(blockerWords).join(". ") : openHere(step, checks);
}

function openHere(step, checks) {
  const [blocker] = closingBlockers(steps, step, state(), checks);
  // Refused and neither written again nor recorded as it is.
  const wrong = [...card().querySelectorAll(".reading-box.wrong")].map((box) => box.dataset.reading);
  if (blocker && blocker.code !== "open_here") return blockerWords(blocker);
  const keys = [...new Set([...wrong, ...(blocker?.keys ?? [])])];
  if (!keys.length) return "";
  const labels = Object.fromEntries(step.readings.map((r) => [r.key, r.label]));
  const missing = keys.map((k) => labels[k] ?? step.checks[k]).join("; ");
  return blockerWords({ code: "open_here", missing });
}

function blockerWords({ code, ...slots }) {
  const words = say(`refuse.${code}`, slots);
  return `${words[0].toUpperCase()}${words.slice(1)}`;
}

// A lead's PIN releases or accepts on this screen; it is never kept, so it needs the link.
async function byLead(form) {
  const { refersTo } = form.dataset;
  const entry = {
    id: freshId(),
    ...(refersTo ? { kind: "accept", refers_to: refersTo } : { kind: "release", step: inHand().key }),
  };
  const asked = { entry, lead: form.elements.lead.value, pin: form.elements.pin.value };
  form.elements.pin.value = "";
  try {
    const answer = await post(`${api}/by-lead`, asked);
    if (!answer.ok) return refuse((await answer.json()).error);
    await renew();
  } catch {
    refuse(say("bay.offline"));
  }
}

async function advise(box, key, value) {
  const place = box.querySelector("[data-advice]");
  if (!place) return;
  const asked = new URLSearchParams({ step: inHand().key, reading: key, value });
  try {
    const answer = await fetch(`${api}/gap-advice?${asked}`);
    const { words } = await answer.json();
    place.textContent = words;
    place.hidden = !words;
  } catch {
    place.hidden = true;
  }
}
