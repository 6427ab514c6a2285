// What the page says of the run, and where the tablet keeps its own.

const AGAIN_MS = 1000;
const GONE = 404;
const METERS = ["meter", "next_meter"];
export const isMeter = (key) => METERS.includes(key);
const read = (id) => JSON.parse(document.getElementById(id).textContent);
export const run = read("run-data");
export const steps = run.steps;
for (const step of steps) step.search = run.search;
export const words = read("run-words");
export const byKey = new Map(steps.map((s) => [s.key, s]));
// The card of each step. That of the step in hand came with the page; the others are kept on the
// tablet for every run of the edition, and only the one looked at stands in the page, as a page of
// sixty steps is slow on an old tablet. A card put aside keeps what was typed on it.
const place = document.getElementById("cards");
const arrived = place.firstElementChild.dataset.step;
const kept = await keptCards();
const cards = new Map(
  [...kept.querySelectorAll("[data-card]")].map((t) => [t.dataset.card, t.content.firstElementChild]),
);
const marks = kept.querySelector("[data-marks]");
const ready = new Map([[arrived, place.firstElementChild]]);

// Without them no step but the first can be shown; until then the page works by its plain forms.
async function keptCards() {
  for (;;) {
    try {
      const answer = await fetch(place.dataset.kept);
      if (answer.ok && !answer.redirected) return new DOMParser().parseFromString(await answer.text(), "text/html");
      // Signed out meanwhile, or another version serves by now; else it is only busy.
      if (answer.redirected || answer.status === GONE) location.reload();
    } catch {
      document.getElementById("link").hidden = false;
      document.getElementById("link").textContent = say("bay.offline");
    }
    await new Promise((go) => setTimeout(go, AGAIN_MS));
  }
}

export function cardOf(key) {
  if (!ready.has(key)) ready.set(key, completed(cards.get(key)));
  return ready.get(key);
}

// A card as it came with the edition, with what is this run's and this person's.
function completed(card) {
  card = document.importNode(card, true);
  const marked = card.querySelector("[data-stops]");
  if (marked) marked.append(...marksOf(marked.dataset.stops.split(" ").filter(Boolean)));
  for (const box of card.querySelectorAll("[data-reading]")) {
    const label = box.querySelector(".reading-form label");
    if (isMeter(box.dataset.reading)) label.append(" ", el("span", "", run.meter.unit));
    const last = run.last[`${card.dataset.step}|${box.dataset.reading}`];
    if (last) box.querySelector("[data-kept]").after(el("p", "last", last));
  }
  for (const lead of card.querySelectorAll("select[name=lead]"))
    lead.append(...run.leads.map(([name, called]) => new Option(called, name)));
  const release = card.querySelector("[data-entry=release]");
  if (release) release.hidden = run.role !== "lead";
  return card;
}

// The unit of a reading; a meter counts what that of the unit counts.
// A value with its unit as it is printed: a degree stands at its number.
export const measured = (value, unit) => `${shown(value)}${unit === "°" ? "" : " "}${unit}`.trim();

export const unitOf = (reading) => reading.unit || (isMeter(reading.key) ? run.meter.unit : "");

// What may be said of a step that does not go as it should; of the stops those that it can meet.
function marksOf(stops) {
  const made = document.importNode(marks.content, true);
  const stop = made.querySelector("[data-mark=stop]");
  if (!stops.length) stop.remove();
  const picks = new Map([...stop.querySelectorAll(".pick")].map((p) => [p.value, p]));
  stop.querySelector(".picks").replaceChildren(...stops.map((key) => picks.get(key)));
  return made.children;
}

export function bringCard(key) {
  if (place.firstElementChild !== cardOf(key)) place.replaceChildren(cardOf(key));
}
// Where they lie, and the photos on all of them, to be kept with the page.
export const keptWithPage = () => [
  place.dataset.kept,
  ...[place, ...cards.values()].flatMap((c) => [...c.querySelectorAll("image")].map((i) => i.getAttribute("href"))),
];
export const api = `/api/v1/runs/${run.run}`;
// Where its page lies. A page that a refused form answered came from another address, which is
// only written to.
export const page = `/bay/runs/${run.run}`;
const mark = run.decimal;

export function say(name, slots = {}) {
  return (words[name] || name).replace(/\{(\w+)\}/g, (_, k) => slots[k] ?? "");
}

// How a person is called who signs in by this name.
export const who = (name) => run.called[name] ?? name ?? "";

// A value as the language of the run writes it.
export function shown(value) {
  return typeof value === "number"
    ? String(Number(value.toFixed(3)))
        .replace(".", mark)
        .replace("-", "−")
    : String(value ?? "");
}

export function clock(at) {
  return new Date(at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", timeZone: run.zone, hour12: false });
}

export function el(tag, className, ...inside) {
  const made = document.createElement(tag);
  if (className) made.className = className;
  made.append(...inside);
  return made;
}

export function button(className, text, act) {
  const made = el("button", className, text);
  made.type = "button";
  made.addEventListener("click", act);
  return made;
}

// Put anew into a place only when what it shows has changed: a focus inside it stays.
export function fill(place, of, make) {
  const said = JSON.stringify(of);
  if (place.dataset.of === said) return;
  place.dataset.of = said;
  place.replaceChildren(...make());
}

// What the tablet keeps of this run. Each thing has a place of its own, so that two windows on one
// run never overwrite each other. `store` raises where the tablet is full.
const shelf = (name) => `eldrim:${name}:${run.run}`;
export function load(name, otherwise = null) {
  try {
    return JSON.parse(localStorage.getItem(shelf(name))) ?? otherwise;
  } catch {
    return otherwise;
  }
}
export function store(name, value) {
  localStorage.setItem(shelf(name), JSON.stringify(value));
}
export function drop(name) {
  localStorage.removeItem(shelf(name));
}

// The names of what is kept under `kind`, in order.
export function keptNames(kind) {
  const end = `:${run.run}`;
  const every = Object.keys(localStorage).filter((k) => k.startsWith(`eldrim:${kind}/`) && k.endsWith(end));
  return every.map((k) => k.slice("eldrim:".length, -end.length)).sort();
}
