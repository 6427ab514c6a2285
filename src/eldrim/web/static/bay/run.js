// What the page says of the run, and where the tablet keeps its own.

const read = (id) => JSON.parse(document.getElementById(id).textContent);
export const run = read("run-data");
export const steps = run.steps;
export const byKey = new Map(steps.map((s) => [s.key, s]));
// The card of each step. All lie ready on the page; only the one looked at stands in it, as a page
// of sixty steps is slow on an old tablet. A card put aside keeps what was typed on it.
const place = document.getElementById("cards");
const ready = new Map(
  [...document.querySelectorAll("template[data-card]")].map((t) => [t.dataset.card, t.content.firstElementChild]),
);
ready.set(place.firstElementChild.dataset.step, place.firstElementChild);
export const cardOf = (key) => ready.get(key);
export function bringCard(key) {
  if (place.firstElementChild !== ready.get(key)) place.replaceChildren(ready.get(key));
}
// The photos on all of them, to be kept with the page.
export const photosOfCards = () =>
  [...ready.values()].flatMap((c) => [...c.querySelectorAll("image")].map((i) => i.getAttribute("href")));
export const api = `/api/v1/runs/${run.run}`;
export const words = read("run-words");
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
