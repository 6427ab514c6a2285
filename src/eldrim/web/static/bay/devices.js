// What a device of this tablet sends goes into the field it is for. Nothing waits for a device:
// lost, the value is typed.

import { hearDevice, writeReading } from "./forms.js";
import { post, state } from "./queue.js";
import { converted, outside } from "./rules.js";
import { button, el, run, say, shown, who } from "./run.js";
import * as sound from "./sound.js";
import { card, inHand, refuse } from "./view.js";

const OHMS = /^[kM]?Ω$/;
const FIELDS = {
  torque: ["torque"],
  gap: ["gap_found", "gap_left", "points_gap", "air_gap"],
  volts: ["volts", "earth", "volts_cranking", "drop_live", "drop_earth", "volts_idle", "volts_loaded"],
  ohms: ["resistance", "primary", "secondary"],
  temperature: ["temperature"],
};

const SENDS = { wrench: ["torque"], gauge: ["gap"], meter: ["volts", "ohms"], thermometer: ["temperature"] };

// The field a device's value is for: the first that is empty, else the first.
function boxFor(kind, unit) {
  const keys = FIELDS[OHMS.test(unit) ? "ohms" : kind] ?? [];
  const boxes = keys.map((k) => card().querySelector(`[data-reading="${k}"]`)).filter(Boolean);
  return boxes.find((box) => box.querySelector("input[name=value]")?.value === "") ?? boxes[0];
}

// Whether a device heard here sends a reading by itself.
export function isHeard(key) {
  if (here.get("lamp") && /^(speed|advance)_/.test(key)) return true;
  return [...here].some(([device, heard]) => heard && SENDS[device]?.some((kind) => FIELDS[kind].includes(key)));
}

// A device may measure in another unit than the step asks for: it is converted like a typed one.
function said({ value, unit }, box) {
  const asked = inHand().readings.find((r) => r.key === box.dataset.reading);
  return asked?.unit === unit ? String(value) : `${value} ${unit}`;
}

function fromDevice({ kind, ...measured }) {
  const box = boxFor(kind, measured.unit);
  const field = box?.querySelector("input[name=value]");
  if (!field) return;
  field.value = said(measured, box);
  field.dataset.how = "device";
  box.classList.add("from-device");
  // What it went to on the way counts, though it clicked lower.
  const over = overPeak(kind, measured);
  highest = null;
  window.clearTimeout(unclicked);
  if (over !== null && over > measured.value) {
    const reading = inHand().readings.find((r) => r.key === box.dataset.reading);
    hearDevice({ step: inHand().key, reading: reading.key, value: over, unit: reading.unit }, reading);
  }
  writeReading(field.form, { how: "device" });
}

// The highest value a wrench went to over its window since the last click; null where none did.
let highest = null;
function overPeak(kind, { value, unit }) {
  const reading = inHand().readings.find((r) => r.key === kind && kind === "torque");
  const here = reading && (unit === reading.unit ? value : converted(run.rules.units, value, unit, reading.unit));
  if (reading && here !== null && outside(reading, here) === "over") highest = Math.max(highest ?? 0, here);
  return highest;
}

// While it is pulled, the value is shown and not yet written.
function peaking({ kind, ...measured }) {
  const box = card().querySelector(`[data-reading="${kind}"]`);
  const field = box?.querySelector("input[name=value]");
  if (!field) return;
  field.value = said(measured, box);
  if (overPeak(kind, measured) === null) return;
  window.clearTimeout(unclicked);
  const { key } = inHand();
  unclicked = window.setTimeout(() => keepPeak(key, kind), NO_CLICK_MS);
}

// A wrench that went over and clicks no more was overpulled all the same: its peak is kept.
const NO_CLICK_MS = 4000;
let unclicked = 0;
function keepPeak(step, kind) {
  if (highest === null || inHand().key !== step) return;
  const reading = inHand().readings.find((r) => r.key === kind);
  hearDevice({ step, reading: kind, value: highest, unit: reading.unit }, reading);
  highest = null;
}

// What a lamp shows just now stands in the field it is for, and is written by a tap. Of the points of
// a curve it is for the one at this speed; back at idle, once all are written, for the return.
let speed = 0;
const SAME_SPEED = 0.06;
function flashing({ value, unit }) {
  const turns = unit !== "°";
  if (turns) speed = value;
  const key = turns ? keysFrom("speed_")[0] : advanceKey();
  const field = fieldOf(key);
  if (!field || (document.activeElement === field && field.dataset.how)) return;
  delete field.dataset.how;
  field.dataset.live = "1";
  field.value = shown(value);
}

// A lamp with a dial shows where it stands: what is left at the mark is added by whoever looks.
function dialling({ value }) {
  const field = fieldOf(advanceKey());
  if (!field || field.dataset.how || document.activeElement === field) return;
  field.value = `${shown(value)} + `;
}

const keysFrom = (start) =>
  inHand()
    .readings.filter(({ key }) => key.startsWith(start))
    .map(({ key }) => key);
const fieldOf = (key) => (key ? card().querySelector(`[data-reading="${key}"] .reading-form input[name=value]`) : null);

function advanceKey() {
  const keys = keysFrom("advance_");
  const points = keys.filter((key) => /_\d+$/.test(key));
  if (!points.length) return keys[0];
  const far = (key) => Math.abs(Number(key.split("_")[1]) - speed) / speed;
  const near = points.find((key) => far(key) < SAME_SPEED);
  const { values } = state();
  const all = points.every((key) => `${inHand().key}|${key}` in values);
  return near ?? (all ? "advance_back" : undefined);
}

// Asked anew, an older wish of this window that comes late to the server must not win.
const asker = freshId().slice(0, 8);
let turn = 0;
let stream = null;
// Device to whether it is heard; none here that was not heard of yet.
const here = new Map();
function listen() {
  stream?.close();
  stream = null;
  here.clear();
  renderHeard();
  const taken = JSON.parse(localStorage.getItem("eldrim:devices") || "[]");
  document.querySelectorAll("[data-take]").forEach((box) => {
    box.checked = taken.includes(box.dataset.take);
  });
  if (!taken.length || !window.EventSource) return;
  turn += 1;
  stream = new EventSource(`/api/v1/devices/stream?take=${taken.join(",")}&asker=${asker}&turn=${turn}`);
  stream.addEventListener("error", () => {
    here.clear();
    renderHeard();
  });
  for (const what of ["here", "lost"]) {
    stream.addEventListener(what, (event) => {
      here.set(JSON.parse(event.data).device, what === "here");
      renderHeard();
    });
  }
  stream.addEventListener("reading", (event) => fromDevice(JSON.parse(event.data)));
  stream.addEventListener("peak", (event) => peaking(JSON.parse(event.data)));
  stream.addEventListener("live", (event) => flashing(JSON.parse(event.data)));
  stream.addEventListener("dial", (event) => dialling(JSON.parse(event.data)));
  // Another tablet took it: it is theirs now, and this one says so.
  stream.addEventListener("taken", (event) => {
    const { device, by } = JSON.parse(event.data);
    take(taken.filter((d) => d !== device));
    tellDevices(say("bay.device_gone", { device: say(`device.${device}`), by: who(by) }));
    sound.refused();
  });
}

// Something about a device that has to be read: what was taken over, or a question.
function tellDevices(...said) {
  const place = document.getElementById("device-said");
  place.hidden = said.length === 0;
  place.replaceChildren(...said);
}

// Which devices are heard, and which are lost for now.
function renderHeard() {
  document.dispatchEvent(new Event("heard"));
  const place = document.querySelector("[data-listening]");
  if (!place) return;
  const named = (heard) =>
    [...here]
      .filter(([, is]) => is === heard)
      .map(([d]) => say(`device.${d}`))
      .sort()
      .join(", ");
  const parts = [
    ["bay.listening", named(true)],
    ["bay.device_lost", named(false)],
  ];
  place.textContent = parts
    .filter(([, devices]) => devices)
    .map(([words, devices]) => say(words, { devices }))
    .join(" · ");
}

function take(devices) {
  keepIfRoom("eldrim:devices", JSON.stringify(devices));
  listen();
}

document.addEventListener("change", (event) => {
  if (event.target.matches("[data-take]")) wish(event.target);
});

const wished = () => [...document.querySelectorAll("[data-take]:checked")].map((box) => box.dataset.take);

// What another bay's tablet hears is taken from it only when that is meant.
async function wish(box) {
  tellDevices();
  const by = box.checked ? await ownerOf(box.dataset.take) : "";
  if (!by) return take(wished());
  box.checked = false;
  const answer = (meant) => () => {
    box.checked = meant;
    tellDevices();
    take(wished());
  };
  tellDevices(
    el("p", "", say("bay.device_owned", { device: say(`device.${box.dataset.take}`), by: who(by) })),
    button("btn-big", say("bay.device_take"), answer(true)),
    " ",
    button("btn-big", say("bay.device_leave"), answer(false)),
  );
}

async function ownerOf(device) {
  try {
    const answer = await fetch(`/api/v1/devices/owners?asker=${asker}`);
    const by = answer.ok ? (await answer.json())[device] : "";
    // Heard by an older window of one's own, it is one's own.
    return by === run.me ? "" : by;
  } catch {
    return "";
  }
}

document.addEventListener("click", (event) => {
  const pressed = event.target.closest("[data-adapter]");
  if (pressed) askAdapter(pressed.dataset.adapter === "clear");
});

// The adapter is asked, it does not speak by itself.
async function askAdapter(clear) {
  try {
    const answer = clear ? await post("/api/v1/devices/clear", {}) : await fetch("/api/v1/devices/codes");
    const said = await answer.json();
    if (!answer.ok) return refuse(said.error);
    if (clear) {
      card().querySelector("[data-adapter-said]").textContent = said.value;
      sound.taken();
      return;
    }
    const field = card().querySelector('[data-reading="codes"] input[name=value]');
    field.value = said.value;
    writeReading(field.form, { how: "device" });
  } catch {
    refuse(say("bay.offline"));
  }
}

// What was heard here before is heard again, unless another tablet hears it meanwhile. What was
// ticked while the page still came is a wish like one ticked after.
async function begin() {
  const early = [...document.querySelectorAll("[data-take]:checked")];
  const remembered = JSON.parse(localStorage.getItem("eldrim:devices") || "[]");
  const owners = await Promise.all(remembered.map(ownerOf));
  take(remembered.filter((_, place) => !owners[place]));
  for (const box of early.filter((b) => !b.checked)) {
    box.checked = true;
    await wish(box);
  }
}

begin();
