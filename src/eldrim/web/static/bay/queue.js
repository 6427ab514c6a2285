// What is written goes into a queue kept on the tablet and is sent in order, each entry once, under
// the id it was given here. The server decides; what it refuses is kept and shown.

import { photoOf, withoutPhoto } from "./photos.js";
import { addEntry, copied, replacedBy } from "./rules.js";
import { api, byKey, drop, keptNames, load, page, run, store } from "./run.js";
import * as sound from "./sound.js";

let server = run.state;
// What this or another window on this tablet was told last, where that is more.
function takeNewer() {
  const kept = load("state");
  // A state kept by a page of an older version has other maps.
  const whole = kept && Object.keys(server).every((map) => map in kept);
  if (whole && kept.seq > server.seq) server = kept;
}
takeNewer();
// Why nothing can be sent: "offline", "signed_out", or "" where it can.
let barred = "";
let sending = false;
let token = document.body.dataset.csrf;
let changed = () => {};
let full = () => {};

const listed = (kind) =>
  keptNames(kind)
    .map((name) => ({ name, ...load(name) }))
    .filter((item) => item.entry);
const queue = () => listed("queue");

// `act` is called whenever what is known of the run has changed.
export function onChange(act) {
  changed = act;
}
// `act` is called when something could not be written down, as the tablet is full.
export function onFull(act) {
  full = act;
}
export const whyBarred = () => barred;
export const isLinked = () => barred === "";
export const unsent = () => queue().length;
export const refusals = () => listed("refused");
export const serverState = () => server;
// Who wrote what waits first in the queue, where that is somebody else than who is signed in.
export function writtenBy() {
  const first = queue()[0];
  return first && first.by !== run.me ? first.by : "";
}

// The run now: what the server last said, with what is not sent yet laid over it.
export function state() {
  const now = copied(server);
  for (const { entry, by } of queue()) addEntry(now, entry, mark(entry, by), run.rules.effects);
  return now;
}

// What lists show of an entry, as the server would say it.
function mark(entry, by) {
  const why = [entry.shown || entry.reason, entry.note].filter(Boolean).join(": ");
  const { id, kind, step, reading, value, unit, reason } = entry;
  const text = byKey.get(step)?.text ?? "";
  return { id, kind, step, text, reading, value, unit, reason, why, by, at: entry.made, unsent: true };
}

// True once it is kept on the tablet; false where there is no room, and then nothing was written.
export function write(entry) {
  if (["reading", "deviation", "over"].includes(entry.kind))
    entry.refers_to ??= replacedBy(state(), entry.step, entry.reading);
  entry.id ??= freshId();
  entry.made = new Date().toISOString();
  try {
    store(`queue/${place()}-${entry.id.slice(0, 8)}`, { entry, by: run.me });
  } catch {
    full();
    return false;
  }
  sound.taken();
  changed();
  send();
  return true;
}

// A place behind all that waits, also where the tablet's clock was put back meanwhile.
function place() {
  const last = keptNames("queue").at(-1);
  const after = last ? Number(last.split(/[/-]/)[1]) + 1 : 0;
  return String(Math.max(Date.now(), after)).padStart(15, "0");
}

export function forget(item) {
  drop(item.name);
  changed();
}

export async function post(address, body) {
  const plain = body instanceof Blob ? body : JSON.stringify(body);
  const type = body instanceof Blob ? body.type : "application/json";
  const again = () =>
    fetch(address, { method: "POST", body: plain, headers: { "content-type": type, "x-csrf-token": token } });
  const answer = await again();
  if (answer.status !== 403) return answer;
  // Signed in anew meanwhile: writes carry another token. Somebody else is not who wrote this.
  const me = await fetch("/api/v1/me");
  if (!me.ok) return me;
  const { name, csrf } = await me.json();
  if (csrf === token) return answer;
  if (name !== run.me) return new Response("{}", { status: 401 });
  token = csrf;
  return again();
}

// What a tablet says of itself with each question.
const saying = (waiting) => new URLSearchParams({ tablet, unsent: waiting, refused: refusals().length });

async function sendOne(item) {
  const { shown, photo_here: here, ...entry } = item.entry;
  const blob = here && (await photoOf(here));
  if (blob) {
    const answer = await post("/api/v1/photos", blob);
    if (!answer.ok) return answer;
    entry.photo = (await answer.json()).photo;
    store(item.name, { ...item, entry: { ...entry, shown } });
    await withoutPhoto(here);
  }
  return post(`${api}/entries?${saying(unsent() - 1)}`, entry);
}

// Statuses that say nothing of the entry itself: it waits and is sent again.
const LATER = (status) => status >= 500 || [401, 403, 429].includes(status);

// Sent in order. One window sends at a time where the browser can see to that; sent twice, an entry
// is taken once.
export async function send() {
  if (sending) return;
  sending = true;
  try {
    if (navigator.locks) await navigator.locks.request(`eldrim:send:${run.run}`, sendAll);
    else await sendAll();
  } catch (error) {
    barred = error.message === "401" ? "signed_out" : "offline";
  } finally {
    sending = false;
    changed();
  }
}

// What is written while the state is asked for after others were sent goes at once as well.
async function sendAll() {
  while (await sendWaiting()) await renew();
}

// Whether anything was sent and taken.
async function sendWaiting() {
  let some = false;
  for (let [item] = queue(); item && item.by === run.me; [item] = queue()) {
    const answer = await sendOne(item);
    if (LATER(answer.status)) throw new Error(String(answer.status));
    if (answer.ok) {
      some = true;
      keep(item.entry);
    } else store(`refused/${item.entry.id}`, { entry: item.entry, why: await saidBy(answer) });
    drop(item.name);
  }
  barred = "";
  return some;
}

async function saidBy(answer) {
  try {
    return (await answer.json()).error;
  } catch {
    return String(answer.status);
  }
}

// How many entries were acknowledged here: an answer asked for before the last may not know of it.
let acknowledged = 0;

// Acknowledged: laid into what the server said, so that nothing flickers until it says so itself.
function keep(entry) {
  acknowledged += 1;
  const laid = addEntry(copied(server), entry, { ...mark(entry, run.me), unsent: false }, run.rules.effects);
  server = { ...laid, seq: server.seq + 1 };
  remember();
}

// A help after a reload; what is not sent is kept elsewhere, so a full tablet loses nothing by it.
function remember() {
  try {
    store("state", server);
  } catch {
    drop("state");
  }
}

// This tablet among others on the same run.
const tablet = localStorage.getItem("eldrim:tablet") ?? freshId().slice(0, 8);
keepIfRoom("eldrim:tablet", tablet);

// Answers may overtake each other: one that was asked for earlier than the last taken says nothing.
let asked = 0;
let taken = 0;
export async function renew() {
  const [mine, knew] = [++asked, acknowledged];
  const answer = await fetch(`${api}/state?${saying(unsent())}`);
  if (!answer.ok) throw new Error(String(answer.status));
  const said = await answer.json();
  if (knew < acknowledged) return renew();
  if (mine < taken) return;
  taken = mine;
  server = said;
  remember();
  barred = "";
  if (server.endings.run && !unsent() && !refusals().length) {
    await leave();
    return;
  }
  changed();
}

// Signed and all sent: what was kept of the run is no longer needed here. Told so twice, one goes
// once: a second way there would break the first off.
let leaving = false;
async function leave() {
  if (leaving) return;
  leaving = true;
  drop("state");
  drop("title");
  if (window.caches) await caches.open("eldrim-bay-1").then((c) => c.delete(page));
  location.assign(`/log/${run.run}`);
}

function renewQuietly() {
  askedAt = Date.now();
  renew().catch((error) => {
    barred = error.message === "401" ? "signed_out" : "offline";
    changed();
  });
}

// The server says when somebody else wrote in this run; without that it is asked every few seconds.
const RENEW_MS = 4000;
const ASKED_ANYWAY_MS = 12000;
let told = false;
let askedAt = 0;
function listenToRun() {
  if (!window.EventSource) return;
  const stream = new EventSource(`/live?topic=run:${run.run}`);
  stream.addEventListener("here", () => {
    told = true;
  });
  stream.addEventListener("error", () => {
    told = false;
  });
  stream.addEventListener("changed", () => {
    if (document.visibilityState === "visible" && !unsent()) renewQuietly();
  });
  // A page left behind and come back to hears nothing any more.
  window.addEventListener("pagehide", () => stream.close());
}
listenToRun();
window.addEventListener("online", send);
// Another window on this tablet wrote or sent something.
window.addEventListener("storage", (event) => {
  if (!event.key?.endsWith(run.run)) return;
  takeNewer();
  changed();
});
window.setInterval(() => {
  if (unsent() && !writtenBy()) send();
  else if (document.visibilityState === "visible" && Date.now() - askedAt >= (told ? ASKED_ANYWAY_MS : RENEW_MS) - 100)
    renewQuietly();
}, RENEW_MS);
