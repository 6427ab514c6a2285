// What the forms of a step write down, judged before it is written.

import { keepPhoto } from "./photos.js";
import { post, renew, state, write } from "./queue.js";
import { resting } from "./rest.js";
import {
  applies,
  closingBlockers,
  converted,
  dialled,
  firstOpen,
  hardly,
  meant,
  number,
  outside,
  pickedWith,
  readAgain,
  sameSerial,
  signingBlockers,
} from "./rules.js";
import { api, button, el, isMeter, measured, run, say, shown, steps } from "./run.js";
import { offerUndo } from "./undo.js";
import { askWord, card, inHand, refuse, showCurrent, tellOf } from "./view.js";

document.addEventListener("submit", (event) => {
  const form = event.target;
  const kind = form.dataset.entry;
  if (!kind && !form.matches("[data-pin]")) return;
  event.preventDefault();
  if (!kind) byLead(form, event.submitter);
  else if (kind === "reading") twice(event) || writeReading(form, { button: event.submitter });
  else if (kind === "done" || kind === "sign") close(form, kind);
  else if (kind === "release") write({ kind, step: inHand().key });
  else writeMarked(form, kind, event.submitter);
});

// Why a value is outside its window, in words; empty when it is inside.
function outsideWords(reading, value) {
  if (reading.key === "serial" && run.serial && !sameSerial(value, run.serial)) {
    return say("refuse.plate", { value, serial: run.serial });
  }
  if (hardly(reading, value))
    return say("refuse.hardly", { label: reading.label, value: measured(value, reading.unit) });
  const way = outside(reading, value);
  if (!way) return notOnThisUnit(reading, value);
  const limit = way === "under" ? reading.low : reading.high;
  return say(`bay.${way}`, {
    said: `${reading.label} ${measured(value, reading.unit)}`,
    limit: measured(limit, reading.unit),
    why: reading.why_limit ? `: ${reading.why_limit}` : "",
  });
}

// What this unit says against a value: where its meter stood, what day it is.
function notOnThisUnit(reading, value) {
  const { last } = run.meter;
  const stands = state().values["ready/unit|meter"]?.value;
  if (reading.key === "meter" && last !== null) {
    if (value < last) return say("refuse.meter_back", { value: shown(value), last: shown(last) });
    const { times, beside } = run.rules.meter_jump;
    if (value > times * last + beside) return say("refuse.meter_jump", { value: shown(value), last: shown(last) });
  }
  if (reading.key === "next_meter" && typeof stands === "number" && value <= stands)
    return say("refuse.meter_past", { value: shown(value), now: shown(stands) });
  if (reading.kind === "date" && value <= new Date().toISOString().slice(0, 10))
    return say("refuse.day_past", { label: reading.label, value });
  return "";
}

// What was typed, as a value in the unit asked for; `note` keeps it as typed where that was another
// one, `refused` says what is wrong with it.
function understood(reading, typed) {
  const { label, unit } = reading;
  if (!typed.trim()) return { refused: say("refuse.empty", { label }) };
  if (reading.kind !== "number") return { value: typed.trim() };
  const sum = reading.key.startsWith("advance_") ? dialled(typed) : null;
  if (sum !== null) return { value: sum, note: typed.trim() };
  const counts = isMeter(reading.key);
  const found = number(typed, counts);
  if (found && counts) {
    if (meterUnit(found.unit)) return { value: found.value };
    return { refused: say("refuse.meter_unit", { unit: run.meter.unit, typed: found.unit }) };
  }
  if (!found)
    return { refused: say("refuse.not_number", { label, value: typed, unit: unit || say("refuse.figures") }) };
  if (!found.unit) return { value: found.value };
  const value = converted(run.rules.units, found.value, found.unit, unit);
  if (value === null)
    return { refused: say("refuse.other_unit", { label, unit: found.unit, wanted: unit || say("refuse.figures") }) };
  return value === found.value ? { value } : { value, note: typed.trim() };
}

// A meter counts hours or kilometres, as the card of the unit says.
const meterUnit = (typed) => typed === "" || run.meter.written.includes(typed.toLowerCase().replace(/[.]$/, ""));

// Writes what stands typed on the card and is not written yet; false where something of it was refused.
export function writePending() {
  for (const form of card().querySelectorAll(".reading-box:not([hidden]) .reading-form")) {
    const field = form.elements.value;
    if (!field?.dataset || !field.dataset.how || !field.value.trim() || field.value === field.dataset.wrote) continue;
    if (!writeReading(form)) return false;
  }
  return true;
}

// Judges and writes a value; true where it was taken.
export function writeReading(form, { button = null, how = "" } = {}) {
  const barred = whyNotHere(inHand(), form.elements.reading.value);
  if (barred) return refuse(barred);
  const box = form.closest(".reading-box");
  const reading = inHand().readings.find((r) => r.key === form.elements.reading.value);
  const typed = button?.name === "value" ? tapped(reading, button.value) : form.elements.value.value;
  const { value, note, refused } = understood(reading, typed);
  card().querySelector("[data-why]").hidden = true;
  offerNothing(box);
  if (refused) return refuse(refused);
  const why = outsideWords(reading, value);
  const again = readAgain(reading);
  box.classList.toggle("wrong", why !== "" && !again);
  offerDeviation(box, typed, why !== "" && (!again || Boolean(reading.turning)));
  advise(box, reading.key, value);
  const came = how || (button?.name === "value" ? "tapped" : cameFrom(form.elements.value));
  const entry = {
    step: inHand().key,
    reading: reading.key,
    value,
    unit: reading.unit,
    how: came,
    ...(note && { note }),
  };
  const cannot = why && (!again || hardly(reading, value));
  if (cannot) {
    offerMeant(box, reading, value);
    if (came === "device") hearDevice(entry, reading);
    // A slip of the finger is no timing: nothing is turned for it.
    if (!(reading.turning && hardly(reading, value))) tellOf(box, reading, value, state());
    return refuse(why);
  }
  if (!write({ kind: why ? "watch" : "reading", ...entry })) return false;
  if (form.elements.value.dataset) form.elements.value.dataset.wrote = form.elements.value.value;
  // Outside its window and waited for: the air is asked for next, the clock says the rest.
  if (why) form.elements.value.value = "";
  // What is to be done for it stands at the field: one stays there.
  if (!why || reading.awaited) onward(form.elements.value);
  return true;
}

// How what stands in a field got there: what a lamp shows is written by a tap, and yet the lamp's.
const cameFrom = ({ dataset }) => dataset.how || (dataset.live ? "device" : "typed");

// A double tap on a pick is one tap: it is not taken away again.
const DOUBLE_MS = 500;
let picked = { by: null, at: 0 };
function twice({ submitter, timeStamp }) {
  const again = submitter?.name === "value" && picked.by === submitter && timeStamp - picked.at < DOUBLE_MS;
  picked = { by: submitter, at: timeStamp };
  return again;
}

// A pick, with the others at its place where several may hold.
function tapped(reading, pick) {
  if (!reading.several) return pick;
  const had = state().values[`${inHand().key}|${reading.key}`];
  return pickedWith(had?.value, pick, run.rules);
}

// Why nothing is written at a step now: it waits, is of another branch, or its outcome was gone on by.
function whyNotHere(step, reading) {
  const before = firstOpen(steps, step, state());
  if (before) return say("refuse.first", { step: before.text });
  const done = step.key in state().closings;
  if (!done && !applies(step, state())) return say("refuse.other_branch", { step: step.text });
  return done && reading === "outcome" ? say("refuse.outcome_closed", { step: step.text }) : "";
}

// What a device said is kept as it came. A wrench that went over its window is a deviation that no
// second click takes away.
export function hearDevice(entry, reading) {
  const over = reading.key === "torque" && outside(reading, entry.value) === "over";
  write({
    ...entry,
    how: "device",
    kind: over ? "over" : "heard",
    ...(over && { reason: "peak", shown: say("deviate.peak") }),
  });
}

// What a refused figure may have been meant to be, each a tap.
function offerMeant(box, reading, value) {
  box.querySelector(".meant")?.remove();
  if (!reading) return;
  const found = meant(reading, value, run.rules.units, run.rules.common).filter(
    ([one]) => reading.key !== "meter" && !notOnThisUnit(reading, one),
  );
  if (!found.length) return;
  const picks = found.map(([one, unit]) => {
    const figure = measured(one, reading.unit);
    const words = unit ? `${figure} (${shown(value)} ${unit})` : figure;
    return button("pick", say("bay.meant", { value: words }), () => {
      const form = box.querySelector(".reading-form");
      form.elements.value.value = shown(one);
      form.elements.value.dataset.how = "typed";
      writeReading(form);
    });
  });
  box.querySelector(".reading-form").after(el("div", "picks meant", ...picks));
}

// What was offered for a value that was refused: it is not what stands in the field any more.
export function offerNothing(box) {
  offerMeant(box, null);
  offerDeviation(box, "", false);
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
  // On a touch screen the pad goes on to a number, and no keyboard comes up over it.
  const byPad = next?.inputMode === "decimal" && window.matchMedia("(pointer: coarse)").matches;
  if (byPad) next.dispatchEvent(new Event("onward", { bubbles: true }));
  else next?.focus();
}

async function writeMarked(form, kind, button) {
  const entry = { kind, step: inHand().key, reason: button.value, shown: button.innerText.trim() };
  const note = form.elements.note?.value.trim();
  if (note) entry.note = note;
  if (kind === "deviation") {
    const reading = inHand().readings.find((r) => r.key === form.elements.reading.value);
    const { value } = understood(reading, form.elements.value.value);
    const over = reading.key === "torque" && outside(reading, value) === "over";
    const field = form.closest(".reading-box").querySelector("input[name=value]");
    const how = field.dataset.how || "typed";
    field.dataset.wrote = field.value;
    Object.assign(entry, { kind: over ? "over" : kind, reading: reading.key, value, unit: reading.unit, how });
    form.hidden = true;
    form.closest(".reading-box").classList.remove("wrong");
  }
  if (kind === "skip") entry.carries = carriedBy(inHand());
  const file = form.elements.photo?.files?.[0];
  try {
    if (file) entry.photo_here = await keepPhoto(file);
  } catch {
    return refuse(say("bay.full"));
  }
  if (!write(entry)) return;
  // What was refused before this may be answered by it.
  card().querySelector("[data-why]").hidden = true;
  form.reset();
  form.closest("details")?.removeAttribute("open");
  if (kind === "stop") showStop(entry.id);
  if (kind === "skip") {
    offerUndo(entry.step);
    showCurrent();
  }
}

// What a stop asks for stands before whoever stopped, wherever on the page that was.
function showStop(id) {
  const said = card().querySelector(`[data-stop="${id}"]`);
  said.scrollIntoView({ block: "center", behavior: "instant" });
  said.focus({ preventScroll: true });
}

// The steps that cannot follow one that could not be done, those still open.
function carriedBy(step) {
  const { closings } = state();
  return step.carries.map((place) => steps[place].key).filter((key) => !(key in closings));
}

function close(form, kind) {
  if (resting()) return;
  const step = inHand();
  const checks = [...form.querySelectorAll("input[name=checks]:checked")].map((b) => b.value);
  const why = kind === "sign" ? openAtSigning(step, checks) : openHere(step, checks);
  if (why) return refuse(why);
  const resets = kind === "done" ? step.resets : [];
  if (!write({ kind, step: step.key, checks, resets }) || kind !== "done") return;
  offerUndo(step.key);
  showCurrent();
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

// A lead's PIN releases, judges or clears on this screen; it is never kept, so it needs the link.
async function byLead(form, pressed) {
  const { refersTo, step } = form.dataset;
  const kind = pressed?.value || form.querySelector("button[name=kind]")?.value || "release";
  const note = form.elements.note?.value.trim();
  if (["again", "refuse"].includes(kind) && !note) return askWord(form);
  const about = refersTo ? { refers_to: refersTo, step, ...(note && { note }) } : { step: inHand().key };
  const asked = { entry: { id: freshId(), kind, ...about }, lead: form.elements.lead.value };
  try {
    const answer = await post(`${api}/by-lead`, { ...asked, pin: form.elements.pin.value });
    form.elements.pin.value = "";
    if (!answer.ok) return refuse((await answer.json()).error);
    // A wrong one before this is forgotten.
    card().querySelector("[data-why]").hidden = true;
    await renew();
  } catch {
    refuse(say("bay.pin_link"));
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
