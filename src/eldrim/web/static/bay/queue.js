// What is written goes into a queue kept on the tablet and is sent in order, each entry once, under
// the id it was given here. The server decides; what it refuses is kept and shown.
import { api, byKey, load, run, store } from "./run.js";
import { closed, lay, named, opened } from "./rules.js";
import * as sound from "./sound.js";

let server = run.state;
const kept = load("state", null);
if (kept && kept.seq > server.seq) server = kept;
const queue = load("queue", []);
const refused = load("refused", []);
let linked = true;
let sending = false;
let token = document.body.dataset.csrf;
let changed = () => {};

// `act` is called whenever what is known of the run has changed.
export function onChange(act) { changed = act; }
export const isLinked = () => linked;
export const unsent = () => queue.length;
export const refusals = () => refused;
export const told = () => server;

// The run now: what the server last said, with what is not sent yet laid over it.
export function state() {
  const now = opened(server);
  for (const { entry } of queue) lay(now, entry, mark(entry));
  return now;
}

function mark(entry) {
  return { id: entry.id, step: entry.step, text: byKey.get(entry.step)?.text ?? "", value: entry.value, unit: entry.unit, reason: [entry.shown || entry.reason, entry.note].filter(Boolean).join(": "), by: "" };
}

export function write(entry) {
  if (entry.kind === "reading" || entry.kind === "deviation") entry.names ??= named(state(), entry.step, entry.reading);
  entry.id = freshId();
  entry.made = new Date().toISOString();
  queue.push({ entry });
  store("queue", queue);
  sound.taken();
  changed();
  send();
}

export function forget(item) {
  refused.splice(refused.indexOf(item), 1);
  store("refused", refused);
  changed();
}

export async function post(address, body, kind = "application/json") {
  const plain = kind === "application/json" ? JSON.stringify(body) : body;
  const again = () => fetch(address, { method: "POST", body: plain, headers: { "content-type": kind, "x-csrf-token": token } });
  const answer = await again();
  if (answer.status !== 403) return answer;
  // Signed in anew meanwhile: writes carry another token.
  const me = await fetch("/api/v1/me");
  if (!me.ok) return answer;
  const { csrf } = await me.json();
  if (csrf === token) return answer;
  token = csrf;
  return again();
}

async function sendOne(item) {
  const { photo_data: photo, shown, ...entry } = item.entry;
  if (!photo) return post(`${api}/entries`, entry);
  const bytes = Uint8Array.from(atob(photo), (c) => c.charCodeAt(0));
  const answer = await post("/api/v1/photos", bytes, "image/jpeg");
  if (!answer.ok) return answer;
  item.entry = { ...entry, shown, photo: (await answer.json()).photo };
  store("queue", queue);
  return sendOne(item);
}

// Statuses that say nothing of the entry itself: it waits and is sent again.
const LATER = (status) => status >= 500 || [401, 403, 429].includes(status);

export async function send() {
  if (sending) return;
  sending = true;
  let taken = false;
  try {
    while (queue.length) {
      const answer = await sendOne(queue[0]);
      if (LATER(answer.status)) throw new Error(String(answer.status));
      const [item] = queue.splice(0, 1);
      if (answer.ok) { taken = true; keep(item.entry); }
      else { refused.push({ entry: item.entry, why: (await answer.json()).error }); store("refused", refused); }
      store("queue", queue);
    }
    linked = true;
    if (taken) await renew();
  } catch {
    linked = false;
  } finally {
    sending = false;
    changed();
  }
}

// Acknowledged: laid into what the server said, so that nothing flickers until it says so itself.
function keep(entry) {
  server = { ...closed(lay(opened(server), entry, mark(entry))), seq: server.seq + 1 };
  store("state", server);
}

export async function renew() {
  const answer = await fetch(`${api}/state?unsent=${queue.length}`);
  if (!answer.ok) throw new Error(String(answer.status));
  server = await answer.json();
  store("state", server);
  linked = true;
  if (server.signed && !queue.length) { location.assign(`/log/${run.run}`); return; }
  changed();
}

const RENEW_MS = 4000;
window.addEventListener("online", send);
window.setInterval(() => {
  if (queue.length) send();
  else if (document.visibilityState === "visible") renew().catch(() => { linked = false; changed(); });
}, RENEW_MS);
