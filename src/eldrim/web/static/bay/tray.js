// The holes as the engine has them: how far each is, and what is next at it. Tapped, that step is
// taken in hand.

import { applies, firstOpen, leftOut, stage } from "./rules.js";
import { cardOf, el, fill, run, say, steps, words } from "./run.js";

// A column narrower than this holds no words.
const LEAST_COLUMN = 110;
const broad = window.matchMedia("(min-width: 1100px)");
const numbers = run.holes;

const tray = document.getElementById("tray");

export function renderTray(now, here, show) {
  tray.hidden = numbers.length === 0;
  // On a wide screen it has room beside what is written down.
  if (broad.matches) cardOf(here.key).querySelector("[data-tray-place]").append(tray);
  else if (tray.previousElementSibling?.id !== "open") document.getElementById("open").after(tray);
  const row = tray.querySelector(".tray-holes") ?? tray.appendChild(el("div", "tray-holes"));
  const columns = Math.max(...Object.values(run.tray).map(([column]) => column));
  const wide = ((broad.matches ? 0.5 : 1) * window.innerWidth) / columns > LEAST_COLUMN;
  row.style.gridTemplateColumns = wide ? `repeat(${columns}, minmax(0, 1fr))` : "";
  fill(row, [Object.keys(now.closings), here.key, wide], () => [
    ...numbers.map((hole) => drawHole(hole, now, here, show, wide)),
    ...(wide ? others.map(drawOther) : []),
  ]);
}

// A hole this job leaves closed: there, so that the tray is the engine.
const others = Object.keys(run.tray).filter((hole) => !numbers.includes(hole));
function drawOther(hole) {
  const made = el("div", "tray-ghost", hole);
  place(made, hole);
  return made;
}

function place(made, hole) {
  [made.style.gridColumn, made.style.gridRow] = run.tray[hole];
}

const SVG = "http://www.w3.org/2000/svg";
function drawing(reached) {
  const made = document.createElementNS(SVG, "svg");
  const used = document.createElementNS(SVG, "use");
  used.setAttribute("href", `#stage-${reached}`);
  made.setAttribute("aria-hidden", "true");
  made.append(used);
  return made;
}

// What is pulled off a plug by its lead is no coil.
const leads = steps.some(({ key }) => key.startsWith("remove/lead/"));
const stageWords = (reached) =>
  say(leads && words[`stage.${reached}.lead`] ? `stage.${reached}.lead` : `stage.${reached}`);

// What is next at a hole. What the step on the screen is, and what that waits for, stands above.
function nextAt(next, now, here) {
  const before = firstOpen(steps, next, now);
  const above = [here.key, firstOpen(steps, here, now)?.key];
  if (above.includes((before ?? next).key)) return "";
  return before ? say("bay.waits_for", { step: before.text }) : next.text;
}

function drawHole(hole, now, here, show, wide) {
  const reached = stage(steps, hole, now);
  const left = leftOut(steps, hole, now);
  const said = left ? say("bay.not_done").toUpperCase() : stageWords(reached);
  const made = el("button", "tray-hole", el("b", "", hole), ...(left ? [] : [drawing(reached)]), el("span", "", said));
  made.type = "button";
  made.classList.toggle("off", left);
  made.classList.toggle("here", here.hole === hole);
  const next = steps.find((s) => s.hole === hole && !(s.key in now.closings) && applies(s, now));
  if (next) {
    const words = nextAt(next, now, here);
    if (words) made.append(el("small", "", words));
    made.addEventListener("click", () => show(next.key));
  }
  if (wide && run.tray[hole]) place(made, hole);
  return made;
}
