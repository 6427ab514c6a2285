// What a tablet must know of the rules to go on without the link: how entries add up, what comes
// first, whether a value is inside its window. A twin of the core's fold; the two are held side by
// side by tests/browser/test_twin.py. Nothing here touches the page.

const LEAST_FALL = 1;
const READ_AGAIN_MINUTES = 10;
const MINUTE = 60000;
// Numbers this close are the same number.
const HAIR = 1e-9;

// The state as the server tells it, made ready to be added to.
export function opened(told) {
  return {
    ...told, done: new Set(told.done), closings: { ...told.closings }, conflicts: { ...told.conflicts }, released: new Set(told.released), values: { ...told.values },
    watched: { ...told.watched }, stops: [...told.stops], deviations: [...told.deviations],
    differs: [...told.differs],
  };
}

// And back, as it is kept on the tablet.
export function closed(now) { return { ...now, done: [...now.done], released: [...now.released] }; }

// One more entry. `mark` is what a list shows of it.
export function lay(now, entry, mark = { id: entry.id, step: entry.step }) {
  const key = `${entry.step}|${entry.reading}`;
  if (entry.kind === "reading" || entry.kind === "deviation") {
    const replaced = now.values[key]?.id;
    now.deviations = now.deviations.filter((d) => d.id !== replaced);
    clash(now, key, entry, mark);
    now.values[key] = { id: entry.id, value: entry.value, by: mark.by ?? "", deviation: entry.kind === "deviation", reason: entry.reason, accepted: false, unsent: true };
  }
  if (entry.kind === "watch") {
    now.watched[key] = [...(now.watched[key] ?? []), { value: entry.value, at: entry.made }];
    delete now.values[key];
    delete now.conflicts[key];
  }
  if (["done", "skip", "sign"].includes(entry.kind)) {
    now.done.add(entry.step);
    now.closings[entry.step] = entry.id;
  }
  if (entry.kind === "reopen") {
    now.deviations = now.deviations.filter((d) => d.id !== now.closings[entry.step]);
    now.done.delete(entry.step);
    delete now.closings[entry.step];
  }
  if (entry.kind === "release") now.released.add(entry.step);
  if (entry.kind === "deviation" || entry.kind === "skip") now.deviations.push(mark);
  if (entry.kind === "accept") {
    now.deviations = now.deviations.filter((d) => d.id !== entry.names);
    for (const [k, v] of Object.entries(now.values)) if (v.id === entry.names) now.values[k] = { ...v, accepted: true };
  }
  if (entry.kind === "differs") now.differs.push(mark);
  if (entry.kind === "stop") now.stops.push({ ...mark, stop: entry.reason });
  if (entry.kind === "resume") now.stops = now.stops.filter((s) => s.id !== entry.names);
  if (entry.kind === "sign" || entry.kind === "end") now.signed = true;
  return now;
}

// A value that does not name the one it stands for was written without knowing of it.
function clash(now, key, entry, mark) {
  const replaced = now.values[key];
  const before = now.conflicts[key] ?? (replaced && [{ ...replaced, kind: replaced.deviation ? "deviation" : "reading", why: replaced.reason }]);
  delete now.conflicts[key];
  if (!replaced || !entry.names || entry.names === replaced.id) return;
  if (before.every((b) => b.value === entry.value)) return;
  now.conflicts[key] = [...before, { ...mark, value: entry.value, kind: entry.kind, why: entry.reason }];
}

// What a new value names: the one it stands for, or nothing as far as this tablet knows.
const NOTHING = "00000000-0000-0000-0000-000000000000";
export const named = (now, step, reading) => now.values[`${step}|${reading}`]?.id ?? NOTHING;

// How a value stands to its window: "under", "over" or "" (inside, or nothing to be judged).
export function judge(reading, value) {
  if (reading.kind !== "number" || typeof value !== "number") return "";
  const blur = reading.resolution / 2 + HAIR;
  if (reading.low !== null && value < reading.low - blur) return "under";
  if (reading.high !== null && value > reading.high + blur) return "over";
  return "";
}

// Whether the gauge cannot tell a value inside its window from one outside. A window no wider than
// the gauge's step has no inside: near its middle is as good as it gets.
export function atLimit(reading, value) {
  if (!reading.resolution || typeof value !== "number" || judge(reading, value)) return false;
  const half = reading.resolution / 2;
  const edges = [reading.low, reading.high].filter((e) => e !== null);
  if (edges.length === 2 && edges[1] - edges[0] <= reading.resolution + HAIR) {
    return Math.abs(value - (edges[0] + edges[1]) / 2) > half + HAIR;
  }
  return edges.some((e) => Math.abs(value - e) < half - HAIR);
}

// A value in another unit of the same kind; null where the two do not measure the same. `units` are
// named by how they are spelled, signs and spaces left out.
export function converted(units, value, from, to) {
  const [a, b] = [from, to].map((u) => units[u.toLowerCase().replace(/[\s.·\-*⋅]/g, "")]);
  if (from === to || (a && a === b)) return value;
  if (!a || !b || a.measures !== b.measures) return null;
  const places = 10 ** b.places;
  return Math.round((value * a.scale + a.offset - b.offset) / b.scale * places) / places;
}

// Whether what was read off a plate, or scanned from its label, ends with the serial of the card.
export function sameSerial(read, serial) {
  const [said, card] = [read, serial].map((t) => t.toUpperCase().replace(/[^\p{L}\p{N}]/gu, ""));
  return said !== "" && said.endsWith(card);
}

// The step that has to be done before this one; undefined when it can be done now.
export function first(steps, step, now) {
  return steps.find((s) => (s.place < step.place || step.after.includes(s.key)) && !now.done.has(s.key));
}

export function current(steps, now) { return steps.find((s) => !now.done.has(s.key)) ?? steps.at(-1); }

// How far a hole is: the stage the last step done at it leads to.
export function stage(steps, hole, now) {
  return steps.filter((s) => s.hole === hole && s.stage && now.done.has(s.key)).at(-1)?.stage ?? "closed";
}

// When what is waited for at this step will be inside its window (Newton's law of cooling).
// Null when nothing is waited for; `lacks` is "second", "air" or "never"; times in milliseconds.
export function waiting(step, now) {
  const reading = step.readings.find((r) => r.awaited);
  const key = reading && `${step.key}|${reading.key}`;
  const seen = (reading && now.watched[key]) ?? [];
  if (!seen.length || key in now.values) return null;
  const air = now.values[`${step.key}|air`]?.value ?? null;
  const last = seen.at(-1);
  const found = { reading, seen, air, lacks: "", cold: judge(reading, last.value) === "under" };
  if (found.cold) return found;
  const from = seen.reduce((a, b) => (b.value >= a.value ? b : a));
  const [start, end] = [Date.parse(from.at), Date.parse(last.at)];
  const again = end + READ_AGAIN_MINUTES * MINUTE;
  if (from.value - last.value < LEAST_FALL || end <= start) return { ...found, lacks: "second", again };
  if (air === null) return { ...found, lacks: "air", again };
  if (air >= reading.high || air >= last.value) return { ...found, lacks: "never", again };
  const share = Math.log((from.value - air) / (last.value - air)) / (end - start);
  const at = (degrees) => start + Math.log((from.value - air) / (degrees - air)) / share;
  const until = reading.low !== null && air < reading.low ? at(reading.low) : null;
  return { ...found, ready: at(reading.high), until };
}

// A typed number, with a point or a comma and maybe a unit: the number and the unit as typed. Null
// when it is none.
export function number(text) {
  const [, digits, unit] = /^([-−]?(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(.*)$/.exec(text.trim()) ?? [];
  if (!digits) return null;
  return { value: Number(digits.replace(",", ".").replace("−", "-")), unit };
}
