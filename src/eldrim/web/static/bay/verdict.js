// What the plugs tell, once every hole is read: worked out by the server, said back by taps. Without
// the link what was picked is kept, and it comes when the link is back.

import { state, unsent, whyBarred, write } from "./queue.js";
import { el, run, say, steps } from "./run.js";
import { card } from "./view.js";

const place = document.getElementById("verdict");
const line = place.querySelector("summary span");
const inside = place.querySelector("summary + div");
const READS = /^read\/(plug|coil)\//;
const reads = steps.filter((step) => READS.test(step.key));
let repaired = false;
// What was asked about last: the same needs no second question.
let asked = "";

const whole = (now) => reads.some((s) => s.key.startsWith("read/plug/")) && reads.every((s) => s.key in now.closings);

export function renderVerdict(now) {
  const known = whole(now);
  place.hidden = !known;
  if (!known) return;
  if (unsent()) return waits();
  const question = JSON.stringify([now.seq, repaired]);
  if (question !== asked) ask(question);
}

function waits() {
  if (asked && whyBarred() !== "offline") return;
  asked = "";
  line.textContent = "";
  inside.replaceChildren(el("p", "", say("bay.verdict_waits")));
}

async function ask(question) {
  asked = question;
  try {
    const answer = await fetch(`/bay/runs/${run.run}/verdict?repaired=${repaired}`);
    if (asked !== question) return;
    if (!answer.ok || answer.status === 204 || answer.redirected) throw new Error(String(answer.status));
    show(new DOMParser().parseFromString(await answer.text(), "text/html").body);
  } catch {
    asked = "x";
    waits();
  }
}

function show(told) {
  const open = [...inside.querySelectorAll("details")].map((d) => d.open);
  inside.replaceChildren(...told.children);
  inside.querySelectorAll("details").forEach((d, n) => {
    d.open = open[n] ?? false;
  });
  const titles = [...inside.querySelectorAll(".verdict")].map((v) => v.getAttribute("aria-label"));
  line.textContent = titles.join("; ");
  place.classList.toggle("unsaid", inside.querySelector("[data-verdict]") !== null && !inside.querySelector(".kept"));
  arrive();
}

// The first time it stands there it is open, and in sight: nothing is fitted before it was seen.
const SEEN = `eldrim:verdict:${run.run}`;
function arrive() {
  if (localStorage.getItem(SEEN)) return;
  keepIfRoom(SEEN, "1");
  place.open = true;
  place.scrollIntoView({ block: "start", behavior: "instant" });
}

// What is said of it goes to the step that read it.
const about = ({ step, reading }) => ({ kind: "verdict", step, reading });

place.addEventListener("click", (event) => {
  const taken = event.target.closest("[data-verdict]");
  if (taken) write({ ...about(taken.dataset), value: taken.dataset.verdict, how: "tapped" });
  const stop = event.target.closest("[data-verdict-stop]");
  if (stop) write({ kind: "stop", step: stop.dataset.step, reason: stop.dataset.verdictStop, shown: stop.innerText });
});

place.addEventListener("change", (event) => {
  if (!event.target.matches("[data-verdict-repaired]")) return;
  repaired = event.target.checked;
  renderVerdict(state());
});

place.addEventListener("submit", (event) => {
  event.preventDefault();
  const note = event.target.elements.note.value.trim();
  if (!note) return;
  write({ ...about(event.target.dataset), value: "doubted", note, how: "typed" });
  card().focus({ preventScroll: true });
});
