// A run on the tablet. What is written goes into a queue kept on the tablet and is sent in order,
// each entry once, under the id it was given here. The server decides; what it refuses is shown.
"use strict";

const run = JSON.parse(document.getElementById("run-data").textContent);
const words = JSON.parse(document.getElementById("run-words").textContent);
const steps = run.steps;
const byKey = new Map(steps.map((s) => [s.key, s]));
const cards = new Map([...document.querySelectorAll(".step-card")].map((c) => [c.dataset.step, c]));
const shelf = (name) => `eldrim:${name}:${run.run}`;
const api = `/api/v1/runs/${run.run}`;

function load(name, otherwise) {
  try { return JSON.parse(localStorage.getItem(shelf(name))) ?? otherwise; } catch { return otherwise; }
}
function store(name, value) { localStorage.setItem(shelf(name), JSON.stringify(value)); }
function say(name, slots = {}) {
  return (words[name] || name).replace(/\{(\w+)\}/g, (_, k) => slots[k] ?? "");
}
function el(tag, className, ...inside) {
  const made = document.createElement(tag);
  if (className) made.className = className;
  made.append(...inside);
  return made;
}

// ---- state: what the server last said, with what is not sent yet laid over it

let server = run.state;
const kept = load("state", null);
if (kept && kept.seq > server.seq) server = kept;
let queue = load("queue", []);
let refused = load("refused", []);
const wanted = new URLSearchParams(location.search).get("step");
let here = byKey.has(wanted) ? wanted : current(state()).key;
let linked = true;

function state() {
  const now = {
    done: new Set(server.done), released: new Set(server.released), values: { ...server.values },
    stops: [...server.stops], deviations: [...server.deviations], differs: [...server.differs],
    signed: server.signed,
  };
  for (const { entry } of queue) lay(now, entry);
  return now;
}

function lay(now, entry) {
  const mark = { id: entry.id, step: entry.step, text: byKey.get(entry.step)?.text ?? "", reason: entry.shown || entry.reason, by: "" };
  if (entry.kind === "reading" || entry.kind === "deviation") {
    now.values[`${entry.step}|${entry.reading}`] = { value: entry.value, by: "", deviation: entry.kind === "deviation", unsent: true };
  }
  if (entry.kind === "done" || entry.kind === "skip" || entry.kind === "sign") now.done.add(entry.step);
  if (entry.kind === "release") now.released.add(entry.step);
  if (entry.kind === "deviation" || entry.kind === "skip") now.deviations.push(mark);
  if (entry.kind === "differs") now.differs.push(mark);
  if (entry.kind === "stop") now.stops.push({ ...mark, stop: entry.reason });
  if (entry.kind === "resume") now.stops = now.stops.filter((s) => s.id !== entry.names);
}

// ---- the rules of order and of limits, as far as the tablet needs them without the link

function judge(reading, value) {
  if (reading.kind !== "number") return "";
  const said = `${reading.label} ${value} ${reading.unit}`.trim();
  const why = reading.why_limit ? `: ${reading.why_limit}` : "";
  const past = (name, limit) => say(name, { said, limit: `${limit} ${reading.unit}`.trim(), why });
  if (reading.low !== null && value < reading.low) return past("bay.under", reading.low);
  if (reading.high !== null && value > reading.high) return past("bay.over", reading.high);
  return "";
}

function waits(step, now) {
  for (const other of steps) {
    const first = other.place < step.place || step.after.includes(other.key);
    if (first && !now.done.has(other.key)) return other.text;
  }
  return "";
}

function current(now) { return steps.find((s) => !now.done.has(s.key)) || steps[steps.length - 1]; }

function openHere(step, now, checks) {
  const missing = step.readings.filter((r) => r.required && !(`${step.key}|${r.key}` in now.values)).map((r) => r.label);
  const card = cards.get(step.key);
  // Refused and neither written again nor recorded as it is.
  for (const box of card.querySelectorAll(".reading-box.wrong")) missing.push(box.querySelector("label").innerText);
  for (const key of step.checks) {
    if (!checks.includes(key)) missing.push(card.querySelector(`input[value="${CSS.escape(key)}"]`).parentElement.innerText.trim());
  }
  return missing;
}

// ---- sound: a click that was taken, a value that was not

let audio = null;
let loud = localStorage.getItem("eldrim:sound") !== "off";
function tone(pitch, seconds) {
  if (!loud || !window.AudioContext) return;
  audio ??= new AudioContext();
  const wave = audio.createOscillator();
  const gain = audio.createGain();
  gain.gain.value = 0.12;
  wave.frequency.value = pitch;
  wave.connect(gain).connect(audio.destination);
  wave.start();
  wave.stop(audio.currentTime + seconds);
}

// ---- writing down

function write(entry) {
  entry.id = freshId();
  entry.made = new Date().toISOString();
  queue.push({ entry });
  store("queue", queue);
  tone(880, 0.07);
  render();
  send();
}

function refuse(card, why) {
  const place = card.querySelector("[data-why]");
  place.textContent = why;
  place.hidden = false;
  tone(196, 0.25);
  place.focus();
}

function number(text) {
  const plain = text.trim().replace(",", ".").replace("−", "-");
  return plain === "" || Number.isNaN(Number(plain)) ? null : Number(plain);
}

function writeReading(form, button) {
  const card = form.closest(".step-card");
  const step = byKey.get(card.dataset.step);
  const key = form.elements.reading.value;
  const reading = step.readings.find((r) => r.key === key);
  const typed = button && button.name === "value" ? button.value : form.elements.value.value;
  card.querySelector("[data-why]").hidden = true;
  const value = reading.kind === "number" ? number(typed) : typed.trim();
  if (value === null || value === "") return refuse(card, `${reading.label}: ?`);
  const box = form.closest(".reading-box");
  const outside = judge(reading, value);
  const deviate = box.querySelector(".deviate");
  box.classList.toggle("wrong", outside !== "");
  advise(box, key, value);
  if (outside) {
    if (deviate) {
      deviate.hidden = false;
      deviate.elements.value.value = typed;
    }
    return refuse(card, outside);
  }
  if (deviate) deviate.hidden = true;
  write({ kind: "reading", step: step.key, reading: key, value, unit: reading.unit });
  const next = [...card.querySelectorAll(".reading-form input[name=value]")].find((i) => i.value === "");
  if (next) next.focus();
  else card.querySelector("[data-done] button, [data-done] input[type=checkbox]")?.focus();
}

async function writeMarked(form, button) {
  const card = form.closest(".step-card");
  const entry = { kind: form.dataset.entry, step: card.dataset.step, reason: button.value, shown: button.innerText.trim() };
  if (entry.kind === "deviation") {
    const reading = byKey.get(entry.step).readings.find((r) => r.key === form.elements.reading.value);
    entry.reading = reading.key;
    entry.value = reading.kind === "number" ? number(form.elements.value.value) : form.elements.value.value;
    entry.unit = reading.unit;
    form.hidden = true;
    form.closest(".reading-box").classList.remove("wrong");
    card.querySelector("[data-why]").hidden = true;
  }
  const file = form.elements.photo?.files?.[0];
  if (file) entry.photo_data = await smaller(file);
  write(entry);
  form.closest("details")?.removeAttribute("open");
  if (entry.kind === "skip") show(current(state()).key);
}

// A photo small enough to wait on the tablet until it can be sent.
async function smaller(file) {
  const image = await createImageBitmap(file);
  const scale = Math.min(1, 1000 / Math.max(image.width, image.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(image.width * scale);
  canvas.height = Math.round(image.height * scale);
  canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
  return canvas.toDataURL("image/jpeg", 0.8).split(",")[1];
}

function close(form) {
  const card = form.closest(".step-card");
  const step = byKey.get(card.dataset.step);
  const now = state();
  const checks = [...form.querySelectorAll("input[name=checks]:checked")].map((b) => b.value);
  const signing = form.dataset.entry === "sign";
  // At the signing, everything still open is listed, not only what comes first.
  const open = steps.filter((s) => s !== step && !now.done.has(s.key)).map((s) => s.text);
  const first = signing ? open.join("; ") : waits(step, now);
  if (first) return refuse(card, `${say("bay.open")}: ${first}`);
  if (signing && now.deviations.length) return refuse(card, say("bay.must_accept", { count: now.deviations.length }));
  if (now.stops.some((s) => s.step === step.key)) return refuse(card, `${say("bay.open")}: ${say("bay.stop")}`);
  if (step.hold && !now.released.has(step.key)) return refuse(card, say("bay.held"));
  const missing = openHere(step, now, checks);
  if (missing.length) return refuse(card, `${say("bay.open")}: ${missing.join("; ")}`);
  write({ kind: form.dataset.entry, step: step.key, checks });
  if (form.dataset.entry === "done") show(current(state()).key);
}

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (form.matches("[data-pin]")) { event.preventDefault(); byLead(form); return; }
  if (!form.dataset.entry) return;
  event.preventDefault();
  const kind = form.dataset.entry;
  if (kind === "reading") writeReading(form, event.submitter);
  else if (kind === "done" || kind === "sign") close(form);
  else if (kind === "release") write({ kind, step: form.closest(".step-card").dataset.step });
  else writeMarked(form, event.submitter);
});

async function byLead(form) {
  const card = form.closest(".step-card");
  const entry = { id: freshId(), kind: "release", step: card.dataset.step };
  const asked = { entry, lead: form.elements.lead.value, pin: form.elements.pin.value };
  form.elements.pin.value = "";
  try {
    const answer = await post(`${api}/by-lead`, asked);
    if (!answer.ok) return refuse(card, (await answer.json()).error);
    await fetchState();
  } catch {
    refuse(card, say("bay.offline"));
  }
}

// ---- sending, in order, each until it is taken or refused

let token = document.body.dataset.csrf;
let sending = false;

async function post(address, body, kind = "application/json") {
  const plain = kind === "application/json" ? JSON.stringify(body) : body;
  const again = () => fetch(address, { method: "POST", body: plain, headers: { "content-type": kind, "x-csrf-token": token } });
  const answer = await again();
  if (answer.status !== 403) return answer;
  // Signed in anew meanwhile: writes carry another token.
  const me = await fetch("/api/v1/me");
  if (!me.ok || (await me.clone().json()).csrf === token) return answer;
  token = (await me.json()).csrf;
  return again();
}

async function sendOne(item) {
  const { photo_data: photo, shown, ...entry } = item.entry;
  if (photo) {
    const bytes = Uint8Array.from(atob(photo), (c) => c.charCodeAt(0));
    const answer = await post("/api/v1/photos", bytes, "image/jpeg");
    if (!answer.ok) return answer;
    item.entry = { ...entry, shown, photo: (await answer.json()).photo };
    store("queue", queue);
    return sendOne(item);
  }
  return post(`${api}/entries`, entry);
}

async function send() {
  if (sending) return;
  sending = true;
  let taken = false;
  try {
    while (queue.length) {
      const answer = await sendOne(queue[0]);
      if (answer.status >= 500 || answer.status === 401 || answer.status === 403) throw new Error(String(answer.status));
      const [item] = queue.splice(0, 1);
      if (answer.ok) taken = true;
      else refused.push({ entry: item.entry, why: (await answer.json()).error });
      store("refused", refused);
      if (answer.ok) keepTaken(item.entry);
      store("queue", queue);
    }
    linked = true;
    if (taken) await fetchState();
  } catch {
    linked = false;
  } finally {
    sending = false;
    render();
  }
}

// Acknowledged: laid into what the server said, so that nothing flickers until it says so itself.
function keepTaken(entry) {
  const now = state.call(null);
  lay(now, entry);
  server = { ...server, seq: server.seq + 1, done: [...now.done], released: [...now.released], values: now.values, stops: now.stops, deviations: now.deviations, differs: now.differs };
  store("state", server);
}

async function fetchState() {
  const answer = await fetch(`${api}/state?unsent=${queue.length}`);
  if (!answer.ok) throw new Error(String(answer.status));
  server = await answer.json();
  store("state", server);
  linked = true;
  if (server.signed && !queue.length) { location.assign(`/log/${run.run}`); return; }
  render();
}

// ---- what is on the screen

function show(key) {
  here = key;
  history.replaceState({}, "", `?step=${encodeURIComponent(key)}`);
  render();
  const card = cards.get(key);
  const field = card.querySelector(".reading-form input[name=value]");
  if (field && field.value === "" && !window.matchMedia("(pointer: coarse)").matches) field.focus();
  else card.focus({ preventScroll: true });
  window.scrollTo({ top: 0, behavior: "instant" });
}

function render() {
  const now = state();
  for (const [key, card] of cards) card.hidden = key !== here;
  renderCard(byKey.get(here), now);
  renderHead(now);
  renderOpen(now);
  renderTray(now);
}

function renderCard(step, now) {
  const card = cards.get(step.key);
  for (const reading of step.readings) {
    const had = now.values[`${step.key}|${reading.key}`];
    const box = card.querySelector(`[data-reading="${CSS.escape(reading.key)}"]`);
    const line = box.querySelector("[data-kept]");
    line.hidden = !had;
    if (!had) continue;
    const picked = [...box.querySelectorAll(".pick[name=value]")].find((b) => b.value === String(had.value));
    box.querySelectorAll(".pick[name=value]").forEach((b) => b.setAttribute("aria-pressed", String(b === picked)));
    line.replaceChildren(`${say("bay.written")}: `, el("b", "", `${picked ? picked.innerText : had.value} ${picked ? "" : reading.unit}`.trim()),
      had.unsent ? ` · ${say("bay.unsent", { count: 1 })}` : ` ${had.by}`, had.deviation ? ` · ${had.accepted ? say("bay.accepted") : say("bay.to_accept")}` : "");
    const big = box.querySelector(".btn-big");
    if (big) big.textContent = say("bay.again");
  }
  card.querySelectorAll("[data-other]").forEach((cell) => {
    const reading = step.readings.filter((r) => r.kind === "number").at(-1);
    const had = now.values[`${cell.dataset.other}|${reading.key}`];
    cell.querySelector(".val").textContent = had ? had.value : "·";
    cell.classList.toggle("off", Boolean(had) && judge(reading, had.value) !== "");
  });
  const held = card.querySelector("[data-held]");
  if (held) held.hidden = now.released.has(step.key);
  renderStops(card, step, now);
  const place = card.querySelector("[data-plan-place]");
  const plan = document.querySelector(".tray-plan svg, .here-plan svg");
  if (plan && plan.parentElement !== place) place.append(plan);
  plan?.querySelectorAll("[data-hole]").forEach((h) => h.classList.toggle("here", h.dataset.hole === step.hole));
  plan?.querySelectorAll(".maybe-here").forEach((p) => p.classList.toggle("here-part", p.dataset.part === step.part));
}

function renderStops(card, step, now) {
  const place = card.querySelector("[data-stop-open]");
  const open = now.stops.filter((s) => s.step === step.key);
  place.hidden = open.length === 0;
  place.replaceChildren(...open.map((stop) => {
    const acts = [];
    for (let n = 1; words[`stop.${stop.stop}.${n}`]; n += 1) acts.push(el("li", "", words[`stop.${stop.stop}.${n}`]));
    const clear = el("button", "btn-big", `${say("bay.clear")}: ${words[`stop.${stop.stop}.clear`]}`);
    clear.type = "button";
    clear.addEventListener("click", () => write({ kind: "resume", step: step.key, names: stop.id }));
    return el("div", "stop-acts", el("h2", "", words[`stop.${stop.stop}`]), el("ol", "", ...acts), clear);
  }));
}

function minutes(value) { return `${Math.max(0, Math.round(value))} min`; }

function renderHead(now) {
  const total = steps.reduce((sum, s) => sum + s.minutes, 0);
  const left = steps.reduce((sum, s) => sum + (now.done.has(s.key) ? 0 : s.minutes), 0);
  const gone = (Date.now() - Date.parse(server.started)) / 60000;
  const planned = total - left;
  // The pace tells only after a while, and a pause for the night is no pace.
  const pace = planned > 5 && gone < 600 ? Math.min(3, Math.max(0.5, gone / planned)) : 1;
  document.getElementById("pace").textContent = `${say("bay.gone", { minutes: minutes(gone) })} · ${say("bay.to_go", { minutes: minutes(left * pace) })} (${say("bay.planned", { minutes: minutes(total) })})`;
  document.querySelectorAll("[data-phase]").forEach((li) => {
    const inside = steps.filter((s) => s.phase === li.dataset.phase);
    const bar = li.querySelector("progress");
    bar.max = inside.length;
    bar.value = inside.filter((s) => now.done.has(s.key)).length;
    li.classList.toggle("here", byKey.get(here).phase === li.dataset.phase);
  });
  const step = byKey.get(here);
  const looking = document.getElementById("looking");
  looking.hidden = current(now).key === here || waits(step, now) === "" && !now.done.has(here);
  looking.querySelector("[data-ahead]").hidden = now.done.has(here);
  looking.querySelector("[data-behind]").hidden = !now.done.has(here);
  document.getElementById("sent").textContent = queue.length ? say("bay.unsent", { count: queue.length }) : say("bay.sent");
  document.getElementById("sent").classList.toggle("waiting", queue.length > 0);
  const link = document.getElementById("link");
  link.hidden = linked;
  link.textContent = say("bay.offline");
  const confirm = document.querySelector("[data-confirm]");
  confirm.hidden = false;
  const sign = cards.get(here).querySelector("[data-done]").dataset.entry === "sign";
  confirm.replaceChildren(`${say(sign ? "bay.sign" : "bay.done")} `, el("kbd", "", "Space"));
  document.querySelector("[data-sound] span").textContent = say(loud ? "bay.on_word" : "bay.off_word");
  document.querySelector("[data-sound]").setAttribute("aria-pressed", String(loud));
  document.getElementById("notices").replaceChildren(...server.notices.map((n) => el("p", "looking notice", n)));
  renderRefused();
}

function renderRefused() {
  document.getElementById("refusals").replaceChildren(...refused.map((item, i) => {
    const away = el("button", "btn-line", say("bay.forget"));
    away.type = "button";
    away.addEventListener("click", () => { refused.splice(i, 1); store("refused", refused); render(); });
    const what = `${byKey.get(item.entry.step)?.text ?? ""} ${item.entry.value ?? ""} ${item.entry.unit ?? ""}`.trim();
    return el("p", "refusal", el("b", "", `${say("bay.refused")}: `), `${what}. ${item.why} `, away);
  }));
}

function renderOpen(now) {
  const place = document.getElementById("open");
  place.hidden = now.deviations.length === 0;
  place.replaceChildren(...now.deviations.map((d) => {
    const line = el("p", "", el("b", "", `${say("bay.for_lead")}: `), `${d.text}${d.value == null ? "" : `, ${d.value} ${d.unit ?? ""}`}: ${d.reason} ${d.by}`);
    if (run.role !== "lead") return line;
    const accept = el("button", "btn-big", say("bay.accept"));
    accept.type = "button";
    accept.setAttribute("aria-label", `${say("bay.accept")}: ${d.text}`);
    accept.addEventListener("click", () => write({ kind: "accept", names: d.id }));
    return el("div", "", line, accept);
  }));
}

// Which holes are open, and what is next at each: tapped, that step is taken in hand.
function renderTray(now) {
  const place = document.getElementById("tray");
  const numbers = [...new Set(steps.filter((s) => s.hole).map((s) => s.hole))].sort((a, b) => parseInt(a, 10) - parseInt(b, 10) || (a < b ? -1 : 1));
  place.hidden = numbers.length === 0;
  place.querySelector(".tray-holes")?.remove();
  const row = el("div", "tray-holes");
  // As the engine lies, where there is room for its columns.
  const columns = Math.max(...numbers.map((h) => (run.tray[h] || [1])[0]));
  const wide = window.innerWidth / columns > 110;
  if (wide) row.style.gridTemplateColumns = `repeat(${columns}, minmax(0, 1fr))`;
  for (const hole of numbers) {
    const mine = steps.filter((s) => s.hole === hole);
    const next = mine.find((s) => !now.done.has(s.key));
    const button = el("button", "tray-hole", el("b", "", hole), el("span", "", say(`stage.${stage(mine, now)}`)));
    button.type = "button";
    button.classList.toggle("here", byKey.get(here).hole === hole);
    if (next) {
      const first = waits(next, now);
      button.append(el("small", "", first ? `${say("bay.open")}: ${first}` : next.text));
      button.addEventListener("click", () => show(next.key));
    }
    const [column, line] = run.tray[hole] || [];
    if (column && wide) { button.style.gridColumn = column; button.style.gridRow = line; }
    row.append(button);
  }
  place.append(row);
}

const STAGES = [["remove/coil/", "open_coil"], ["remove/lead/", "open_coil"], ["remove/plug/", "open"], ["read/plug/", "read"], ["start/plug/", "fitted"], ["torque/plug/", "torqued"], ["fit/coil/", "coil_on"], ["fit/lead/", "coil_on"], ["connect/coil/", "connected"], ["connect/lead/", "connected"]];
function stage(mine, now) {
  let found = "closed";
  for (const [start, name] of STAGES) if (mine.some((s) => s.key.startsWith(start) && now.done.has(s.key))) found = name;
  return found;
}

// ---- hands: keys, taps on a drawn scale, the gap adviser, devices

function look(by) {
  const at = steps.findIndex((s) => s.key === here) + by;
  if (steps[at]) show(steps[at].key);
}

function confirmStep() {
  const form = cards.get(here).querySelector("[data-done]");
  const open = [...form.querySelectorAll("input[type=checkbox]")].find((box) => !box.checked);
  if (open) { open.checked = true; tone(660, 0.04); } else form.requestSubmit();
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const field = event.target.closest("input:not([type=checkbox]), select, textarea");
  // A foot switch sends one of these; while a number is typed, only the last of them.
  if (event.key === "PageDown") { event.preventDefault(); confirmStep(); return; }
  if (field) return;
  const acts = { " ": confirmStep, ",": () => look(-1), ".": () => look(1), n: () => show(current(state()).key), m: toggleSound };
  if (event.key === " " && event.target.closest("button, a, summary")) return;
  if (acts[event.key]) { event.preventDefault(); acts[event.key](); }
});

function toggleSound() {
  loud = !loud;
  localStorage.setItem("eldrim:sound", loud ? "on" : "off");
  render();
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-confirm]")) cards.get(here).querySelector("[data-done]").requestSubmit();
  if (event.target.closest("[data-back]")) look(-1);
  if (event.target.closest("[data-on]")) look(1);
  if (event.target.closest("[data-now]")) show(current(state()).key);
  if (event.target.closest("[data-sound]")) toggleSound();
  const scale = event.target.closest("svg[data-scale]");
  if (scale && scale.closest(".step-card")) tapScale(scale, event);
});

// A tap on the drawn scale is the value under it, on the graduation.
function tapScale(scale, event) {
  const [first, last, left, right, wide, grade] = scale.dataset.scale.split(" ").map(Number);
  const box = scale.getBoundingClientRect();
  const x = (event.clientX - box.left) / box.width * wide;
  const value = first + (x - left) / (right - left) * (last - first);
  const fields = [...scale.closest(".step-card").querySelectorAll(".reading-form input[inputmode=decimal]")];
  const field = fields.at(-1);
  if (field) { field.value = String(Number((Math.round(value / grade) * grade).toFixed(3))); field.focus(); }
}

async function advise(box, key, value) {
  const place = box.querySelector("[data-advice]");
  if (!place) return;
  try {
    const answer = await fetch(`${api}/gap-advice?step=${encodeURIComponent(here)}&reading=${key}&value=${value}`);
    const { words: said } = await answer.json();
    place.textContent = said;
    place.hidden = !said;
  } catch { place.hidden = true; }
}

// What a device sends goes into the field it is for; without one, it is typed.
function fromDevice({ kind, value }) {
  const wanted = { torque: ["torque"], gap: ["gap_found", "gap_left"], volts: ["volts"], temperature: ["temperature"], codes: ["codes"] }[kind] || [];
  const card = cards.get(here);
  const box = wanted.map((k) => card.querySelector(`[data-reading="${k}"]`)).find(Boolean);
  const field = box?.querySelector("input[name=value]");
  if (!field) return;
  field.value = String(value);
  box.classList.add("from-device");
  writeReading(box.querySelector(".reading-form"), null);
}

let stream = null;
function listen() {
  stream?.close();
  stream = null;
  const boxes = [...document.querySelectorAll("[data-take]")];
  const taken = JSON.parse(localStorage.getItem("eldrim:devices") || "[]");
  boxes.forEach((box) => { box.checked = taken.includes(box.dataset.take); });
  if (!taken.length || !window.EventSource) return;
  stream = new EventSource(`/api/v1/devices/stream?take=${taken.join(",")}`);
  stream.addEventListener("reading", (event) => fromDevice(JSON.parse(event.data)));
  stream.addEventListener("peak", (event) => {
    const { kind, value } = JSON.parse(event.data);
    const field = cards.get(here).querySelector(`[data-reading="${kind}"] input[name=value]`);
    if (field) field.value = String(value);
  });
  // Another tablet took it: it is theirs now.
  stream.addEventListener("gone", (event) => takeDevices(taken.filter((d) => d !== JSON.parse(event.data))));
}

function takeDevices(devices) {
  localStorage.setItem("eldrim:devices", JSON.stringify(devices));
  listen();
}

document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-take]")) return;
  takeDevices([...document.querySelectorAll("[data-take]:checked")].map((box) => box.dataset.take));
});

// The adapter is asked, it does not speak by itself.
async function askAdapter(button) {
  const card = button.closest(".step-card");
  try {
    const clear = button.dataset.adapter === "clear";
    const answer = clear ? await post("/api/v1/devices/clear", {}) : await fetch("/api/v1/devices/codes");
    const said = await answer.json();
    if (!answer.ok) return refuse(card, said.error);
    if (clear) { card.querySelector("[data-adapter-said]").textContent = said.value; tone(880, 0.07); return; }
    const field = card.querySelector('[data-reading="codes"] input[name=value]');
    field.value = said.value;
    writeReading(field.form, null);
  } catch {
    refuse(card, say("bay.offline"));
  }
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-adapter]");
  if (button) askAdapter(button);
});
listen();

if ("serviceWorker" in navigator) navigator.serviceWorker.register("/sw.js").then(() => navigator.serviceWorker.ready).then(async () => {
  // Kept at once, not only at the next visit: the page and all it is made of.
  const made = performance.getEntriesByType("resource").map((r) => new URL(r.name)).filter((u) => u.origin === location.origin && /^\/(static|images)\//.test(u.pathname));
  const icon = document.querySelector("link[rel=icon]").href;
  await Promise.all([location.pathname, icon, ...made.map((u) => u.pathname)].map((a) => fetch(a).catch(() => {})));
}).catch(() => {});

window.addEventListener("online", send);
window.setInterval(() => {
  if (queue.length) send();
  else if (document.visibilityState === "visible") fetchState().catch(() => { linked = false; render(); });
}, 4000);
document.body.classList.add("scripted");
render();
send();
