// What is on the screen: the step in hand, what is open, how far the run is.

import { renderWaiting } from "./cooling.js";
import { forget, refusals, serverState, state, unsent, whyBarred, write, writtenBy } from "./queue.js";
import { onRest, rest, resting } from "./rest.js";
import { applies, atLimit, current, firstOpen, outside, told } from "./rules.js";
import {
  bringCard,
  button,
  byKey,
  cardOf,
  el,
  fill,
  measured,
  page,
  run,
  say,
  shown,
  steps,
  unitOf,
  who,
  words,
} from "./run.js";
import * as sound from "./sound.js";
import { renderTray } from "./tray.js";

const wanted = new URLSearchParams(location.search).get("step");
let here = byKey.has(wanted) ? wanted : current(steps, state()).key;

export const inHand = () => byKey.get(here);
export const card = () => cardOf(here);

export function show(key) {
  const other = key !== here;
  here = key;
  if (other) arrive();
  history.replaceState({}, "", `?step=${encodeURIComponent(key)}`);
  render();
  const field = card().querySelector(".reading-form input[name=value]");
  if (field && field.value === "" && !window.matchMedia("(pointer: coarse)").matches) field.focus();
  else card().focus({ preventScroll: true });
  window.scrollTo({ top: 0, behavior: "instant" });
}

// Another step under the finger: it is seen and felt, and rests before it can be closed.
function arrive() {
  rest();
  for (const said of document.querySelectorAll("#notices details")) said.open = false;
  const arrived = cardOf(here);
  arrived.classList.remove("arrived");
  void arrived.offsetWidth;
  arrived.classList.add("arrived");
  navigator.vibrate?.(30);
}

export function openAgain() {
  write({ kind: "reopen", step: here, refers_to: state().closings[here].id });
}

// What was done, and what is of the branch taken.
const belongs = (step, now) => step.key in now.closings || applies(step, now);

export const showCurrent = () => show(current(steps, state()).key);

export function look(by) {
  const now = state();
  const seen = steps.filter((s) => s.key === here || belongs(s, now));
  const at = seen.findIndex((s) => s.key === here) + by;
  if (seen[at]) show(seen[at].key);
}

// Says where one is now, as a finger drawn across may have brought another hole under it.
export function nameHere() {
  const place = document.getElementById("now-at");
  const step = inHand();
  place.textContent = say("bay.now_at", {
    hole: step.hole ? say("bay.hole_of", { hole: step.hole }) : "",
    step: step.text,
  });
  place.hidden = false;
  sound.moved();
}

export function refuse(why) {
  const place = card().querySelector("[data-why]");
  place.textContent = `${why[0].toUpperCase()}${why.slice(1)}`;
  place.hidden = false;
  sound.refused();
  place.focus();
  return false;
}

export function render() {
  const now = state();
  const step = inHand();
  bringCard(here);
  for (const reading of step.readings) renderReading(step, reading, now);
  renderOthers(step, now);
  const held = card().querySelector("[data-held]");
  if (held) held.hidden = here in now.released;
  renderStops(step, now);
  renderMarks(step, now);
  renderPlan(step);
  renderPace(now);
  renderPlace(now);
  renderFoot(now, step);
  renderRefused();
  const drop = document.querySelector("[data-drop]");
  if (drop) drop.hidden = now.seq > 0 || unsent() > 0;
  renderOpen(now);
  renderConflicts(now);
  renderParts(now);
  renderTray(now, step, show);
  renderWaiting(now, step);
  renderCurve(step, now);
  const ring = card().querySelector("a[data-ring]");
  if (ring) ring.search = `?run=${run.run}`;
  rendered();
}

// `act` is called whenever the screen was brought up to date.
let rendered = () => {};
export function onRender(act) {
  rendered = act;
}

function renderReading(step, reading, now) {
  const had = now.values[`${step.key}|${reading.key}`];
  const box = card().querySelector(`[data-reading="${CSS.escape(reading.key)}"]`);
  const line = box.querySelector("[data-kept]");
  line.hidden = !had;
  renderTold(box, step, reading, now);
  bringValue(box, had);
  if (!had) return;
  const picks = [...box.querySelectorAll(".pick[name=value]")];
  const said = reading.several ? String(had.value).split(run.rules.apart) : [String(had.value)];
  picks.forEach((b) => b.setAttribute("aria-pressed", String(said.includes(b.value))));
  const picked = picks.filter((b) => said.includes(b.value));
  for (const fold of box.querySelectorAll("[data-more]")) fold.open ||= picked.some((b) => fold.contains(b));
  const value = picked.map((b) => b.textContent.trim()).join("; ") || measured(had.value, unitOf(reading));
  const from = had.unsent ? ` · ${say("bay.unsent", { count: 1 })}` : ` ${who(had.by)}`;
  const limit = atLimit(reading, had.value) ? ` · ${say("bay.limit")}` : "";
  const accepted = ["deviation", "over"].includes(had.kind)
    ? ` · ${say(had.id in now.accepted ? "bay.accepted" : "bay.to_accept")}`
    : "";
  line.replaceChildren(`${say("bay.written")}: `, el("b", "", value.trim()), from, limit, accepted);
  const big = box.querySelector(".btn-big");
  if (big) big.textContent = say("bay.again");
}

// What the last value says, also one that was kept as found and is read again.
function renderTold(box, step, reading, now) {
  const place = `${step.key}|${reading.key}`;
  const [last] = [now.values[place], now.watched[place]?.at(-1)].filter(Boolean).sort((a, b) => (a.at < b.at ? 1 : -1));
  const found = last?.kind === "watch" ? `${say("bay.as_found", { value: measured(last.value, reading.unit) })} ` : "";
  tellOf(box, reading, last?.value, now, found);
}

// Says beside a field what a value means, also one that is refused there.
export function tellOf(box, reading, value, now, before = "") {
  const line = box.querySelector("[data-told]");
  if (!line) return;
  const words = value === undefined ? "" : told(reading, value, (key) => valueByKey(key, now), shown);
  line.hidden = !words;
  line.textContent = `${before}${words}`;
}

// What was read along the advance curve, on its drawing: a point each, in it or out of it.
const SVG = "http://www.w3.org/2000/svg";
function renderCurve(step, now) {
  const drawing = card().querySelector("svg[data-curve]");
  if (!drawing) return;
  const [last, most, left, right, top, floor] = drawing.dataset.curve.split(" ").map(Number);
  drawing.querySelectorAll(".read, .off").forEach((dot) => dot.remove());
  for (const reading of step.readings) {
    const had = now.values[`${step.key}|${reading.key}`];
    const speed = Number(reading.key.split("_")[1]);
    if (!had || !speed) continue;
    const dot = document.createElementNS(SVG, "circle");
    dot.setAttribute("cx", left + ((right - left) * speed) / last);
    dot.setAttribute("cy", floor - ((floor - top) * Math.min(had.value, most)) / most);
    dot.setAttribute("r", 7);
    dot.setAttribute("class", outside(reading, had.value) ? "off" : "read");
    drawing.append(dot);
  }
}

// The value of a reading of this run by its key alone, whichever step it is at; null where it has none.
function valueByKey(key, { values }) {
  const place = Object.keys(values).find((one) => one.endsWith(`|${key}`));
  return place ? values[place].value : null;
}

// A card seen for the first time shows what was written there before, to be written again.
function bringValue(box, had) {
  const field = box.querySelector(".reading-form input[name=value]");
  if (had && field && !("seen" in box.dataset) && field.value === "") field.value = shown(had.value);
  box.dataset.seen = "";
}

// The same number at the other holes, to compare with.
function renderOthers(step, now) {
  const reading = step.readings.filter((r) => r.kind === "number").at(-1);
  card()
    .querySelectorAll("[data-other]")
    .forEach((cell) => {
      const had = now.values[`${cell.dataset.other}|${reading.key}`];
      const verdict = had ? outside(reading, had.value) || (atLimit(reading, had.value) ? "at_limit" : "") : "";
      cell.querySelector(".val").textContent = had ? shown(had.value) : "·";
      cell.querySelector("small").textContent =
        verdict && say(verdict === "at_limit" ? "bay.at_limit" : `bay.${verdict}_word`);
      cell.classList.toggle("off", ["under", "over"].includes(verdict));
      renderLooks(cell, now);
    });
}

// How the other plugs look, small: comparing beats naming.
const MOST_LOOKS = 3;
function renderLooks(cell, now) {
  const had = now.values[`${cell.dataset.other}|condition`];
  const picks = had ? String(had.value).split(run.rules.apart).slice(0, MOST_LOOKS) : [];
  const looks = picks.map((one) => card().querySelector(`.pick[value="${CSS.escape(one)}"]`)).filter(Boolean);
  cell.querySelector(".looks-there")?.remove();
  if (!looks.length) return;
  const drawn = looks.map((b) => b.querySelector("svg")?.cloneNode(true) ?? "");
  const said = looks.map((b) => b.textContent.trim()).join("; ");
  cell.append(el("span", "looks-there", ...drawn, el("span", "visually-hidden", said)));
}

function renderStops(step, now) {
  const place = card().querySelector("[data-stop-open]");
  const open = Object.values(now.stops).filter((stop) => stop.step === step.key);
  place.hidden = open.length === 0;
  // By their ids: sent by the server it reads the same, and what is being typed stays.
  const stops = open.map((stop) => stop.id);
  fill(place, stops, () =>
    open.map((stop) => {
      const acts = [];
      for (let n = 1; words[`stop.${stop.reason}.${n}`]; n += 1)
        acts.push(el("li", "", words[`stop.${stop.reason}.${n}`]));
      const clear = clearingForm(step, stop);
      const otherwise = el("p", "", say("bay.hand_over"));
      const head = el("h2", "", words[`stop.${stop.reason}`]);
      head.tabIndex = -1;
      head.dataset.stop = stop.id;
      return el("div", "stop-acts", head, el("ol", "", ...acts), clear, otherwise);
    }),
  );
}

// What was said of the step: not done, what differs, what a wrench went to.
function renderMarks(step, now) {
  const place = card().querySelector("[data-marks]");
  const closing = now.closings[step.key];
  const lines = Object.values(now.marks)
    .filter((mark) => mark.step === step.key && mark.kind === "differs")
    .map((mark) => say("bay.marked", { why: mark.why }));
  if (closing?.kind === "skip") {
    const first = closing.step === step.key ? closing.why : say("bay.not_done_with", { step: closing.text });
    lines.unshift(`${say("bay.not_done").toUpperCase()}: ${first}`);
  }
  for (const again of Object.values(now.refused)) {
    const open = again.step === step.key && again.kind === "again" && !closing;
    if (open) lines.push(say("bay.again_by", { by: who(again.by), why: again.note }));
  }
  for (const over of Object.values(now.deviations).filter((d) => d.kind === "over" && d.step === step.key)) {
    lines.push(say("bay.over_peak", { value: `${shown(over.value)} ${over.unit}` }), say("bay.over_next"));
  }
  place.hidden = !lines.length;
  fill(place, lines, () => lines.map((line) => el("p", "marked", line)));
}

// A stop ends with a word of what was done; some of them only by a lead, here by PIN.
function clearingForm(step, stop) {
  const how = Object.assign(el("input", ""), { name: "note", maxLength: 400, autocomplete: "off", required: true });
  const asked = el("label", "clear-how", say("bay.clear_how"), how);
  const done = `${say("bay.clear")}: ${words[`stop.${stop.reason}.clear`]}`;
  const byLead = run.rules.lead_clears.includes(stop.reason) && run.role !== "lead";
  if (byLead)
    return leadForm(
      [["resume", done]],
      { refersTo: stop.id, step: step.key },
      el("p", "", say("bay.clear_lead")),
      asked,
    );
  const form = el("form", "clear-form", asked, el("button", "btn-big", done));
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    write({ kind: "resume", step: step.key, refers_to: stop.id, note: how.value.trim() });
  });
  return form;
}

// What a lead may say of what is open for them.
const JUDGEMENTS = [
  ["accept", "bay.accept"],
  ["again", "bay.again_do"],
  ["refuse", "bay.not_so"],
];
const judgements = () => JUDGEMENTS.map(([kind, words]) => [kind, say(words)]);

function noteField() {
  const note = Object.assign(el("input", ""), { name: "note", maxLength: 400, autocomplete: "off" });
  return el("label", "lead-note", say("bay.lead_note"), note);
}

// A button for each thing that can be said, named by the kind of entry it writes.
function sayButtons(sayings, about = "") {
  return sayings.map(([kind, words], place) => {
    const made = el("button", place ? "btn-line" : "btn-big", words);
    Object.assign(made, { name: "kind", value: kind });
    if (about) made.setAttribute("aria-label", `${words}: ${about}`);
    return made;
  });
}

// A lead standing by answers on this screen, by PIN.
function leadForm(sayings, about, ...before) {
  const lead = el("select", "form-select", ...run.leads.map(([name, called]) => new Option(called, name)));
  lead.name = "lead";
  const pin = Object.assign(el("input", ""), {
    type: "password",
    name: "pin",
    inputMode: "numeric",
    maxLength: 12,
    autocomplete: "off",
  });
  const form = el(
    "form",
    "pin-form",
    ...before,
    el("label", "", say("bay.lead"), lead),
    el("label", "", say("bay.pin"), pin),
    el("div", "lead-says", ...sayButtons(sayings)),
  );
  Object.assign(form.dataset, { pin: "", ...about });
  return form;
}

// One plan for all steps, brought to the one in hand.
const plan = document.querySelector(".tray-plan svg");

function renderPlan(step) {
  const place = card().querySelector("[data-plan-place]");
  if (plan.parentElement !== place) place.append(plan);
  plan.querySelectorAll("[data-hole]").forEach((h) => h.classList.toggle("here", h.dataset.hole === step.hole));
  plan.querySelectorAll(".maybe-here").forEach((p) => p.classList.toggle("here-part", p.dataset.part === step.part));
}

const minutes = (value) => `${Math.max(0, Math.round(value))} min`;
// The pace tells only after a while, and a pause for the night is no pace.
const [LEAST_PLANNED, LONGEST_GONE, SLOWEST, FASTEST] = [5, 600, 3, 0.5];

function paceWords(now, ours) {
  const total = ours.reduce((sum, s) => sum + s.minutes, 0);
  const left = ours.reduce((sum, s) => sum + (s.key in now.closings ? 0 : s.minutes), 0);
  const gone = (Date.now() - Date.parse(serverState().started)) / 60000;
  const said = say("bay.gone", { minutes: minutes(gone) });
  // How long a search takes hangs on what the tests say.
  if (run.search) return `${said} · ${say("find.in_all", { minutes: minutes(run.search.expected_minutes) })}`;
  const telling = total - left > LEAST_PLANNED && gone < LONGEST_GONE;
  const pace = telling ? Math.min(SLOWEST, Math.max(FASTEST, gone / (total - left))) : 1;
  const still = say("bay.to_go", { minutes: minutes(left * pace) });
  return `${said} · ${still} (${say("bay.planned", { minutes: minutes(total) })})`;
}

function renderPace(now) {
  const ours = steps.filter((s) => belongs(s, now));
  document.getElementById("pace").textContent = paceWords(now, ours);
  document.querySelectorAll("[data-phase]").forEach((li) => {
    const inside = ours.filter((s) => s.phase === li.dataset.phase);
    const bar = li.querySelector("progress");
    li.style.flexGrow = String(inside.reduce((sum, s) => sum + s.minutes, 0));
    bar.max = inside.length;
    bar.value = inside.filter((s) => s.key in now.closings).length;
    li.classList.toggle("here", inHand().phase === li.dataset.phase);
  });
}

// Whether what is shown is the step in hand, and whether the server is heard.
function renderPlace(now) {
  const looking = document.getElementById("looking");
  const done = here in now.closings;
  const before = firstOpen(steps, inHand(), now);
  looking.hidden = current(steps, now).key === here || (!before && !done);
  const ahead = looking.querySelector("[data-ahead]");
  ahead.hidden = done;
  ahead.textContent = before ? `${say("bay.ahead")} ${say("bay.waits_for", { step: before.text })}` : "";
  for (const part of looking.querySelectorAll("[data-behind], [data-reopen]")) part.hidden = !done;
  const left = now.closings[here]?.kind === "skip";
  looking.querySelector("[data-behind]").textContent = left
    ? `${say("bay.not_done").toUpperCase()}.`
    : say("bay.behind");
  const sent = document.getElementById("sent");
  sent.textContent = unsent() ? say("bay.unsent", { count: unsent() }) : say("bay.sent");
  sent.classList.toggle("waiting", unsent() > 0);
  renderLink();
  const { notices } = serverState();
  fill(document.getElementById("notices"), notices, () => notices.map(notice));
}

// Once read it is a line that can be opened again: what a step asks for stands above the fold.
function notice(words) {
  const said = el("details", "looking notice", el("summary", "", words));
  said.open = true;
  return said;
}

// Why nothing is sent, and what to do about it.
function renderLink() {
  const place = document.getElementById("link");
  const [barred, other] = [whyBarred(), writtenBy()];
  place.hidden = !barred && !other;
  fill(place, [barred, other], () => {
    if (barred === "offline") return [say("bay.offline")];
    const sign = el("a", "btn-line", say("bay.sign_in"));
    sign.href = `/sign-in?next=${encodeURIComponent(page)}`;
    return [barred ? say("bay.signed_out") : say("bay.other_person", { name: who(other) }), " ", sign];
  });
}

// While it rests the large button cannot be pressed; where one is stays named as long.
function renderRest() {
  for (const button of document.querySelectorAll("[data-confirm], .close-step .btn-done")) button.disabled = resting();
  if (!resting()) document.getElementById("now-at").hidden = true;
}
onRest(renderRest);

// What is typed on the card and not written down yet counts as read: the button writes it.
function isTyped(key) {
  const field = card().querySelector(`[data-reading="${CSS.escape(key)}"] .reading-form input[name=value]`);
  return Boolean(field?.dataset.how && field.value.trim());
}

// The proofs of the step on the screen that are not given yet; none while a value is missing, or
// before a signing that has to wait for something else.
export function openProofs() {
  const now = state();
  if (signs() && current(steps, now).key !== here) return [];
  if (inHand().needs.readings.some((key) => !(`${here}|${key}` in now.values) && !isTyped(key))) return [];
  return [...card().querySelectorAll("[data-done] input[type=checkbox]")].filter((box) => !box.checked);
}

// What the large button does here: close or sign this step, or go to the one that can be closed.
export function canClose() {
  const [now, step] = [state(), inHand()];
  return signs() || (!(step.key in now.closings) && applies(step, now) && !firstOpen(steps, step, now));
}

const signs = () => card().querySelector("[data-done]").dataset.entry === "sign";

// The order of the leads is looked along tower by tower, as a signature is given.
export const oneByOne = () => signs() || inHand().key === "prove/order";

// What was typed or written last of what this step asks for, to be read once more before it is
// closed. On the pad it is read here alone, where the field is below the fold.
function lastRead(now, step) {
  const numbers = step.readings.filter((r) => r.kind === "number");
  const typing = numbers.find((r) => isTyped(r.key) && card().querySelector(`[data-reading="${r.key}"] .in-hand`));
  if (typing) return `${card().querySelector(".in-hand").value.trim()} ${unitOf(typing)}`;
  const asked = numbers.filter((r) => r.required).at(-1);
  const had = asked && now.values[`${step.key}|${asked.key}`];
  return had ? `${shown(had.value)} ${unitOf(asked)}` : "";
}

const MOST_NAMED = 4;
function renderFoot(now, step) {
  const confirm = document.querySelector("[data-confirm]");
  confirm.hidden = false;
  const close = canClose();
  const proofs = close ? openProofs() : [];
  // A signature, and the order of leads, is given proof by proof; any other step at one tap.
  const first = oneByOne() && proofs.length > 0;
  const said = !close ? "bay.to_now" : first ? "bay.give" : signs() ? "bay.sign" : "bay.done";
  const value = close && !signs() ? lastRead(now, step) : "";
  const named = proofs.map((box) => box.closest("label").innerText.trim());
  // More than a few are not read on a button: how many they are is.
  const proven = named.length > MOST_NAMED ? say("bay.proofs", { count: named.length }) : named.join(" · ");
  const given = first || !named.length ? [] : [el("span", "proven", proven)];
  confirm.classList.toggle("elsewhere", !close);
  renderRest();
  confirm.replaceChildren(
    ...(value ? [el("span", "had", value), " "] : []),
    `${say(said, { proof: named[0] ?? "" })} `,
    el("kbd", "", "Space"),
    ...given,
  );
  confirm.classList.toggle("gives", first);
  const switched = document.querySelector("[data-sound]");
  switched.querySelector("span").textContent = say(sound.loud ? "bay.on_word" : "bay.off_word");
  switched.setAttribute("aria-pressed", String(sound.loud));
}

function renderRefused() {
  fill(document.getElementById("refusals"), refusals(), () =>
    refusals().map((item) => {
      const { step, value, unit } = item.entry;
      const what = `${byKey.get(step)?.text ?? ""} ${shown(value)} ${unit ?? ""}`.trim();
      return el(
        "p",
        "refusal",
        el("b", "", `${say("bay.refused")}: `),
        `${what}. ${item.why} `,
        button("btn-line", say("bay.forget"), () => forget(item)),
      );
    }),
  );
}

function renderOpen(now) {
  const place = document.getElementById("open");
  const deviations = Object.values(now.deviations);
  place.hidden = deviations.length === 0;
  // Sent again by the server it reads the same: nothing moves under a finger.
  fill(
    place,
    deviations.map((d) => [d.id, d.text, d.value, d.why, d.by, now.refused[d.id]?.id]),
    () =>
      deviations.map((d) => {
        const line = el("p", "", el("b", "", `${say("bay.for_lead")}: `), ...aboutOpen(d, now));
        return el("div", "", line, run.role === "lead" ? judgeForm(d) : acceptHere(d));
      }),
  );
}

// All one needs to judge it: the value with its window, the last time, the reason, the photo.
function aboutOpen(d, now) {
  const reading = byKey.get(d.step)?.readings.find((r) => r.key === d.reading);
  const value = d.value == null ? "" : `${shown(d.value)} ${d.unit ?? ""}`.trim();
  const window = reading ? windowWords(reading) : "";
  const last = reading && cardOf(d.step)?.querySelector(`[data-reading="${CSS.escape(d.reading)}"] .last`)?.textContent;
  const facts = [[value, window].filter(Boolean).join("; "), last].filter(Boolean).join(". ");
  const said = now.refused[d.id];
  const parts = [`${d.text}${facts ? `: ${facts}` : ""}. ${d.why}. ${who(d.by)}`];
  if (d.photo) {
    const link = el("a", "", say("bay.photo"));
    link.href = `/images/${d.photo}.jpg`;
    parts.push(" ", link);
  }
  if (said) parts.push(el("br", ""), el("b", "", say("bay.refused_by", { by: who(said.by), why: said.note })));
  return parts;
}

function windowWords({ low, high, unit }) {
  if (low === null && high === null) return "";
  const limits = low !== null && high !== null ? `${shown(low)}–${shown(high)}` : "";
  return `${say("bay.window")} ${limits || (low !== null ? `≥ ${shown(low)}` : `≤ ${shown(high)}`)} ${unit}`;
}

// A lead who does not accept says why, there and then.
export function askWord(form) {
  const said = form.querySelector(".refusal") ?? el("p", "refusal", say("bay.lead_note_needed"));
  said.setAttribute("role", "alert");
  form.prepend(said);
  sound.refused();
  form.elements.note.focus();
}

// A lead on their own tablet: with a word for anything but yes.
function judgeForm(d) {
  const note = noteField();
  const form = el("form", "judge-form", note, el("div", "lead-says", ...sayButtons(judgements(), d.text)));
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    const kind = event.submitter?.value ?? "accept";
    const word = note.querySelector("input").value.trim();
    if (kind !== "accept" && !word) {
      askWord(form);
      return;
    }
    write({ kind, step: d.step, refers_to: d.id, ...(word && { note: word }) });
  });
  return form;
}

// What was found damaged, or a stop asks for, beside the parts laid out.
function renderParts(now) {
  const place = document.getElementById("parts");
  place.hidden = now.parts.length === 0;
  fill(place, now.parts, () => [
    el("p", "", el("b", "", say("doc.parts"))),
    el(
      "ul",
      "",
      ...now.parts.map((p) => el("li", "", el("b", "", [p.name, p.number].filter(Boolean).join(" ")), ` (${p.why})`)),
    ),
  ]);
}

// A lead standing by accepts on this screen, by PIN.
function acceptHere(deviation) {
  // What is being typed stays when the list is put anew.
  const had = document.querySelector(`#open form[data-refers-to="${deviation.id}"]`);
  if (had) return had.closest("details");
  const form = leadForm(judgements(), { refersTo: deviation.id, step: deviation.step }, noteField());
  return el("details", "accept-here", el("summary", "", say("bay.accept_here")), form);
}

// Two tablets wrote different values: a person says which holds, and that is written down.
function renderConflicts(now) {
  const place = document.getElementById("conflicts");
  place.hidden = Object.keys(now.conflicts).length === 0;
  fill(place, now.conflicts, () =>
    Object.entries(now.conflicts).map(([key, both]) => {
      const [step, reading] = key.split("|");
      const asked = byKey.get(step).readings.find((r) => r.key === reading);
      const picks = both.map((one) => {
        const pick = button("pick", `${shown(one.value)} ${asked.unit} ${who(one.by)}`.trim(), () =>
          writeHolding(step, asked, one),
        );
        pick.setAttribute("aria-label", `${asked.label}: ${shown(one.value)} ${asked.unit}`);
        return pick;
      });
      return el(
        "div",
        "conflict",
        el("p", "", el("b", "", say("bay.conflict")), ` ${byKey.get(step).text}, ${asked.label}:`),
        el("div", "picks", ...picks),
      );
    }),
  );
}

function writeHolding(step, reading, one) {
  const said = one.kind === "reading" ? { kind: "reading" } : { kind: one.kind, reason: one.reason };
  write({ ...said, step, reading: reading.key, value: one.value, unit: reading.unit });
}
