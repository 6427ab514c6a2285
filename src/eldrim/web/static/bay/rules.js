// The rules of a run as the server sends them, interpreted: how entries change the state, what comes
// first, whether a value is inside its window. No rule stands here itself but Newton's law of
// cooling. Nothing here touches the page.

const MINUTE = 60000;
const THE_RUN = "run";
// A plate that says something else stops the run until a lead decides.
const PLATE = "serial";

// A copy of a state that entries can be added to.
export const copied = (state) => structuredClone(state);

const placeOf = (entry) => `${entry.step}|${entry.reading ?? ""}`;

// What an effect is keyed by; a key that is missing changes nothing.
const KEYS = {
  step: (_, entry) => [entry.step],
  place: (_, entry) => [placeOf(entry)],
  id: (_, entry) => [entry.id],
  refers_to: (_, entry) => [entry.refers_to],
  closing: (state, entry) => [state.closings[entry.step]?.id],
  // What went over its window stays to be accepted, whatever is read after it.
  replaced: (state, entry) => {
    const had = state.values[placeOf(entry)];
    return [had?.kind === "over" ? null : had?.id];
  },
  carried: (_, entry) => entry.carries ?? [],
  reset: (_, entry) => entry.resets ?? [],
  reset_place: (state, entry) =>
    Object.keys(state.values).filter((place) => (entry.resets ?? []).includes(place.split("|")[0])),
  run: () => [THE_RUN],
};

// What an effect does to its map.
const CHANGES = {
  put: (kept, key, mark) => {
    kept[key] = mark;
  },
  drop: (kept, key) => {
    delete kept[key];
  },
  drop_same: (kept, key) => {
    for (const [place, mark] of Object.entries(kept)) if (mark.id === key) delete kept[place];
  },
  append: (kept, key, mark) => {
    kept[key] = [...(kept[key] ?? []), mark];
  },
  clash: clashed,
};

// A value is kept beside those it does not know of, where they are not all alike.
function clashed(kept, key, mark, state, entry) {
  const replaced = state.values[key];
  const before = kept[key] ?? (replaced ? [replaced] : []);
  delete kept[key];
  const knew = !replaced || !entry.refers_to || entry.refers_to === replaced.id;
  if (!knew && before.some((one) => one.value !== entry.value)) kept[key] = [...before, mark];
}

// Adds an entry to a state. `mark` is what lists show of the entry; `effects` are the server's.
export function addEntry(state, entry, mark, effects) {
  const keys = effects[entry.kind].map(([, , keyedBy]) => KEYS[keyedBy](state, entry).filter(Boolean));
  effects[entry.kind].forEach(([kind, map], place) => {
    for (const key of keys[place]) CHANGES[kind](state[map], key, mark, state, entry);
  });
  return state;
}

// What a new value refers to: the one it replaces, or no entry where this tablet has none yet.
const NO_ENTRY = "00000000-0000-0000-0000-000000000000";
export const replacedBy = (state, step, reading) => state.values[`${step}|${reading}`]?.id ?? NO_ENTRY;

// What is picked once one more is tapped: again, it is taken away; what is seen alone stands alone.
// Something stays picked.
export function pickedWith(had, tapped, { alone, apart }) {
  const before = had ? String(had).split(apart) : [];
  if (alone.includes(tapped)) return tapped;
  if (before.includes(tapped)) return before.filter((one) => one !== tapped).join(apart) || tapped;
  return [...before.filter((one) => !alone.includes(one)), tapped].join(apart);
}

// On which side of a closed interval a value lies: "under", "over" or "".
function side([low, high], value) {
  if (low !== null && value < low) return "under";
  return high !== null && value > high ? "over" : "";
}

// How a value stands to its window: "under", "over" or "" (inside, or nothing to be judged).
export const outside = (reading, value) => (typeof value === "number" ? side(reading.accepted, value) : "");

// Whether a value can hardly be, on any engine.
export function hardly(reading, value) {
  return typeof value === "number" && side(reading.plausible, value) !== "";
}

// What may have been meant by a value that is refused: a digit or a mark astray, or another unit.
// As [value in the unit asked for, the unit it was in where that was another].
const ASTRAY = [10, 0.1, 100, 0.01, 1000, 0.001];
const OFFERED = 3;
export function meant(reading, value, units, spelled) {
  if (typeof value !== "number") return [];
  const fits = (one) => one !== null && outside(reading, one) === "" && !hardly(reading, one);
  const others = spelled.filter((unit) => unit !== reading.unit);
  const found = [
    ...others.map((unit) => [converted(units, value, unit, reading.unit), unit]),
    ...[-1, ...ASTRAY].map((times) => [Number((value * times).toFixed(3)), ""]),
  ];
  return found.filter(([one]) => fits(one)).slice(0, OFFERED);
}

// Whether the gauge cannot tell a value inside its window from one outside.
export function atLimit(reading, value) {
  if (typeof value !== "number" || outside(reading, value)) return false;
  return side(reading.certain, value) !== "";
}

// What a value says and what to do next, in the words of its reading; empty where it says nothing.
// `other` gives the value of another reading of the same run, null where it is not written yet;
// `print` writes a number.
export function told(reading, value, other, print) {
  if (typeof value !== "number") return "";
  if (reading.curve) return along(reading, value, other);
  if (reading.turning) return turned(reading, value, other, print);
  const { falls } = reading;
  if (falls && outside(reading, value) === "") {
    const had = other(falls.under);
    if (typeof had === "number" && had - value > falls.most + TINY) return falls.text;
  }
  const fits = (reading.says ?? []).filter(({ least }) => least === null || value >= least - TINY);
  return fits.at(-1)?.text ?? "";
}

// What a whole advance curve says, at the reading that closes it; empty until every point is read.
const [STILL, JUMPS] = [0.25, 1.6];
function along(reading, back, other) {
  const { curve } = reading;
  const found = curve.points.map(({ key }) => other(key)).filter((value) => typeof value === "number");
  if (found.length < curve.points.length) return "";
  if (outside(reading, back) === "over") return curve.stuck;
  const middles = curve.points.map(({ low, high }) => (low + high) / 2);
  const gains = found
    .slice(1)
    .map((value, n) => [value - found[n], middles[n + 1] - middles[n]])
    .filter(([, meant]) => meant > 0)
    .map(([gain, meant]) => gain / meant);
  if (gains.some((gain, n) => gain < STILL && gains[n + 1] > JUMPS)) return curve.steps;
  const under = curve.points.map(({ low }, n) => found[n] < low - TINY);
  const over = curve.points.map(({ high }, n) => found[n] > high + TINY);
  if (under.at(-1)) return curve.tired;
  if (under.includes(true)) return curve.late;
  return over.includes(true) ? curve.early : curve.well;
}

const TINY = 1e-9;
function turned(reading, value, other, print) {
  const { turning } = reading;
  const way = outside(reading, value);
  const one = (value) => print(Math.floor(value * 10 + 0.5 + TINY) / 10);
  const filled = (words, crank) =>
    words
      .replaceAll("[body]", one(crank / 2))
      .replaceAll("[edge]", turning.edge === null ? "" : one(crank * turning.edge));
  if (!way) return turning.right;
  if (way === "over") return filled(turning.retard, value - turning.over_to);
  const lack = turning.under_to - value;
  const had = turning.other ? other(turning.other) : null;
  const tired = turning.room !== null && typeof had === "number" && had + lack > turning.room + TINY;
  return tired ? turning.tired : filled(turning.advance, lack);
}

// An advance as a lamp with a dial tells it: "20 + 2", the dial and what is left at the mark; null
// where it is not written so.
const DIALLED = /^\s*(\d{1,2}(?:[.,]\d{1,2})?)\s*°?\s*([+−-])\s*(\d{1,2}(?:[.,]\d{1,2})?)\s*°?\s*$/;
export function dialled(typed) {
  const [, dial, sign, left] = DIALLED.exec(typed) ?? [];
  if (!dial) return null;
  const [one, other] = [dial, left].map((text) => Number(text.replace(",", ".")));
  return Math.round((sign === "+" ? one + other : one - other) * 100) / 100;
}

// Whether a value outside its window is kept as it was found, and read again: once it has cooled, or
// once the body was turned.
export const readAgain = (reading) => reading.awaited || Boolean(reading.turning);

// A value in another unit of the same kind; null where the two do not measure the same. `units` are
// named by how they are spelled, signs and spaces left out.
export function converted(units, value, from, to) {
  const [source, target] = [from, to].map((unit) => units[unit.toLowerCase().replace(/[\s.·\-*⋅]/g, "")]);
  if (from === to || (source && source === target)) return value;
  if (!source || !target || source.measures !== target.measures) return null;
  const places = 10 ** target.places;
  const inTarget = (value * source.scale + source.offset - target.offset) / target.scale;
  return Math.round(inTarget * places) / places;
}

// Whether what was read off a plate is the serial of the card; a label of ours says more before it.
export function sameSerial(read, serial) {
  const [, labelled] = /^ELDRIM UNIT \S+ (.*)$/.exec(read.trim()) ?? [];
  const [said, card] = [labelled ?? read, serial].map((text) => text.toUpperCase().replace(/[^\p{L}\p{N}]/gu, ""));
  return said !== "" && said === card;
}

const isDone = (state, step) => step.key in state.closings;

const OUTCOME = "outcome";

// The branches a search for a cause has taken: each act with what came of it and how likely each
// cause was after it, and the place where it stands; its last place is "end".
export function walk(search, { closings, values }) {
  let beliefs = search.causes.map((cause) => cause.probability);
  const taken = [];
  let node = search.nodes[search.first];
  while (node) {
    const act = search.acts[node.act];
    if (act.hands && !(act.hands in closings)) return { place: `${node.act}/hands`, taken, beliefs };
    const leftOut = closings[act.hands]?.kind === "skip";
    const closing = closings[act.sees];
    if (!closing && !leftOut) return { place: `${node.act}/see`, taken, beliefs };
    const said = values[`${act.sees}|${OUTCOME}`];
    const outcome = leftOut || closing.kind === "skip" || !said ? "" : said.value;
    beliefs = after(act, outcome, beliefs);
    taken.push({ act: node.act, outcome, beliefs });
    node = search.nodes[node.then[outcome] ?? ""];
  }
  return { place: "end", taken, beliefs };
}

// How likely each cause is once an act came to this.
function after(act, outcome, beliefs) {
  const chances = {
    yes: () => act.likely,
    no: () => act.likely.map((yes) => 1 - yes),
    cured: () => beliefs.map((_, n) => Number(act.cures.includes(n))),
    not: () => beliefs.map((_, n) => Number(!act.cures.includes(n))),
  };
  const told = chances[outcome]?.() ?? [];
  const weights = told.length ? beliefs.map((belief, n) => belief * told[n]) : beliefs;
  const whole = weights.reduce((sum, weight) => sum + weight, 0);
  return whole > 0 ? weights.map((weight) => weight / whole) : beliefs;
}

// Where what changed places is now: what it is, of which cylinder, at which. What was renewed since
// is nowhere any more.
export function movedNow(search, { closings }) {
  const done = Object.values(search.acts).filter(({ hands }) => hands && closings[hands]?.kind === "done");
  const isNew = (what, place) => done.some((act) => act.renews.includes(what) && act.cylinders.includes(place));
  return done
    .filter(({ swaps }) => swaps)
    .flatMap(({ swaps, cylinders: [one, other] }) => [
      { what: swaps, cylinder: one, place: other },
      { what: swaps, cylinder: other, place: one },
    ])
    .filter(({ what, place }) => !isNew(what, place));
}

// Whether a step belongs to the branch a search has taken; any step where nothing is searched for.
export function applies(step, state) {
  if (step.places.length && !step.places.includes(walk(step.search, state).place)) return false;
  const before = step.only_after.map((key) => state.closings[key]).filter(Boolean);
  return !step.only_after.length || before.some((closing) => closing.kind !== "skip");
}

const isAhead = (state, step) => !isDone(state, step) && applies(step, state);

// The step that has to be done before this one; undefined when it can be done now.
export const firstOpen = (steps, step, state) =>
  step.waits_for.map((place) => steps[place]).find((other) => isAhead(state, other));

export const current = (steps, state) => steps.find((step) => isAhead(state, step)) ?? steps.at(-1);

// What keeps a step from being closed with these checks ticked: codes, the gravest first.
export function closingBlockers(steps, step, state, checks) {
  const before = firstOpen(steps, step, state);
  const readings = step.needs.readings.filter((key) => !(`${step.key}|${key}` in state.values));
  const missing = [...readings, ...step.needs.checks.filter((key) => !checks.includes(key))];
  return [
    isDone(state, step) && { code: "done", step: step.text },
    !isDone(state, step) && !applies(step, state) && { code: "other_branch", step: step.text },
    before && { code: "first", step: before.text },
    Object.values(state.stops).some((stop) => stop.step === step.key) && { code: "stop_open" },
    Object.values(state.deviations).some((open) => open.reading === PLATE) && { code: "plate_open" },
    step.hold && !(step.key in state.released) && { code: "held" },
    missing.length > 0 && { code: "open_here", keys: missing },
  ].filter(Boolean);
}

// What keeps a run from being signed: codes, the gravest first.
export function signingBlockers(steps, signing, state) {
  const open = steps.filter((step) => step !== signing && isAhead(state, step));
  const counts = ["conflicts", "stops", "deviations"].map((code) => ({ code, count: Object.keys(state[code]).length }));
  return [
    ...(open.length ? [{ code: "open", steps: open.map((step) => step.text).join("; ") }] : []),
    ...counts.filter(({ count }) => count),
  ];
}

// How far a hole is: the stage the last step done at it leads to.
export function stage(steps, hole, state) {
  const done = steps.filter((step) => step.hole === hole && step.stage && isDone(state, step));
  return done.at(-1)?.stage ?? "closed";
}

// Whether a step at a hole was left out: whatever followed, it is not as planned.
export const leftOut = (steps, hole, state) =>
  steps.some((step) => step.hole === hole && state.closings[step.key]?.kind === "skip");

// When what is waited for at this step will be inside its window (Newton's law of cooling).
// Null when nothing is waited for; `lacks` is "second", "air" or "never"; times in milliseconds.
// `cooling` holds the server's constants: least fall in degrees, minutes to the next reading.
export function waiting(step, state, cooling) {
  const reading = step.readings.find((one) => one.awaited);
  const place = reading && `${step.key}|${reading.key}`;
  const seen = (reading && state.watched[place]) ?? [];
  if (!seen.length || place in state.values) return null;
  const air = state.values[`${step.key}|air`]?.value ?? null;
  const last = seen.at(-1);
  const found = { reading, seen, air, lacks: "", cold: outside(reading, last.value) === "under" };
  return found.cold ? found : { ...found, ...readyAt(found, last, cooling) };
}

function readyAt({ reading, seen, air }, last, cooling) {
  const from = seen.reduce((hottest, one) => (one.value >= hottest.value ? one : hottest));
  const [start, end] = [Date.parse(from.at), Date.parse(last.at)];
  const again = end + cooling.read_again_minutes * MINUTE;
  if (from.value - last.value < cooling.least_fall || end - start < cooling.least_apart_minutes * MINUTE)
    return { lacks: "second", again };
  if (air === null) return { lacks: "air", again };
  if (air >= reading.high || air >= last.value) return { lacks: "never", again };
  const rate = Math.log((from.value - air) / (last.value - air)) / (end - start);
  const when = (degrees) => start + Math.log((from.value - air) / (degrees - air)) / rate;
  return { ready: when(reading.high), until: reading.low !== null && air < reading.low ? when(reading.low) : null };
}

const VULGAR = {
  "½": "1/2",
  "¼": "1/4",
  "¾": "3/4",
  "⅛": "1/8",
  "⅜": "3/8",
  "⅝": "5/8",
  "⅞": "7/8",
  "⅓": "1/3",
  "⅔": "2/3",
};
const FRACTION = String.raw`\d+\s+\d+/\d+|\d+/\d+`;
const GROUPED = String.raw`\d{1,3}(?:[ \u00a0\u202f]\d{3})+|[1-9]\d{0,2}(?:,\d{3}){2,}|[1-9]\d{0,2}(?:\.\d{3}){2,}`;
// 1,500 may be one and a half or fifteen hundred: it is asked about, not guessed.
const TWO_READINGS = /^[-−]?[1-9]\d{0,2}[.,]\d{3}$/;
const NUMBER = new RegExp(
  String.raw`^([-−]?(?:${FRACTION}|${GROUPED}|\d+(?:[.,]\d+)?|[.,]\d+))\s*([^\d\s_.,-][^\d]*)?$`,
  "s",
);

// A typed number, with a point, a comma or a fraction, and maybe a unit: the number and the unit as
// typed. Null when it is none.
export function number(text, whole = false) {
  const plain = text
    .trim()
    .replace(/(\d?)\s*([½¼¾⅛⅜⅝⅞⅓⅔])/g, (_, whole, sign) => `${whole ? `${whole} ` : ""}${VULGAR[sign]}`);
  const [, digits, unit = ""] = NUMBER.exec(plain) ?? [];
  // A meter counts whole hours or kilometres: a mark before three figures only groups them.
  if (whole && TWO_READINGS.test(digits ?? "")) return { value: Number(digits.replace(/[.,]/, "")), unit: unit.trim() };
  if (TWO_READINGS.test(digits ?? "")) return null;
  return digits ? { value: numberOf(digits), unit: unit.trim() } : null;
}

function numberOf(digits) {
  const sign = /^[-−]/.test(digits) ? -1 : 1;
  const groups = /^\D?[1-9]\d{0,2}([.,]\d{3}){2,}$/.test(digits);
  const bare = groups ? digits.replace(/\D/g, "") : digits.replace(/^[-−]/, "").replace(",", ".");
  if (!bare.includes("/")) return sign * Number(bare.replace(/\s/g, ""));
  const parts = bare.split(/\s+/).map((part) => part.split("/").map(Number));
  return sign * parts.reduce((sum, [over, under = 1]) => sum + over / under, 0);
}
