// What a device of this tablet sends goes into the field it is for. Nothing waits for a device:
// lost, the value is typed.

import { hearDevice, writeReading } from "./forms.js";
import { post } from "./queue.js";
import { converted, outside } from "./rules.js";
import { run, say } from "./run.js";
import * as sound from "./sound.js";
import { card, inHand, refuse } from "./view.js";

const FIELDS = { torque: ["torque"], gap: ["gap_found", "gap_left"], volts: ["volts"], temperature: ["temperature"] };

// A device may measure in another unit than the step asks for: it is converted like a typed one.
function said({ value, unit }, box) {
  const asked = inHand().readings.find((r) => r.key === box.dataset.reading);
  return asked?.unit === unit ? String(value) : `${value} ${unit}`;
}

function fromDevice({ kind, ...measured }) {
  const box = (FIELDS[kind] ?? []).map((k) => card().querySelector(`[data-reading="${k}"]`)).find(Boolean);
  const field = box?.querySelector("input[name=value]");
  if (!field) return;
  field.value = said(measured, box);
  field.dataset.how = "device";
  box.classList.add("from-device");
  // What it went to on the way counts, though it clicked lower.
  const over = overPeak(kind, measured);
  highest = null;
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
  overPeak(kind, measured);
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
      here.set(JSON.parse(event.data), what === "here");
      renderHeard();
    });
  }
  stream.addEventListener("reading", (event) => fromDevice(JSON.parse(event.data)));
  stream.addEventListener("peak", (event) => peaking(JSON.parse(event.data)));
  // Another tablet took it: it is theirs now.
  stream.addEventListener("taken", (event) => take(taken.filter((d) => d !== JSON.parse(event.data))));
}

// Which devices are heard, and which are lost for now.
function renderHeard() {
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
  localStorage.setItem("eldrim:devices", JSON.stringify(devices));
  listen();
}

document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-take]")) return;
  take([...document.querySelectorAll("[data-take]:checked")].map((box) => box.dataset.take));
});

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

listen();
