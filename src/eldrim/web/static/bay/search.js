// The search for a cause: what came of each act, what is likely by now, and where things are that
// changed places. Worked out here from what was written down, so it holds without the link.

import { movedNow, walk } from "./rules.js";
import { el, fill, run, say } from "./run.js";

const place = document.getElementById("search");
// Less likely than this is ruled out.
const RULED_OUT = 0.005;
const percent = (share) => `${share >= RULED_OUT ? Math.max(1, Math.round(share * 100)) : 0} %`;

export function renderSearch(now) {
  place.hidden = !run.search;
  if (!run.search) return;
  const { taken, beliefs } = walk(run.search, now);
  const moved = movedNow(run.search, now);
  drawMoved(moved);
  fill(place.querySelector("summary span"), [taken, moved], () => [heading(taken, moved)]);
  fill(place.querySelector("summary + div"), [taken, moved, beliefs], () => [
    ...(moved.length ? [el("p", "moved", say("find.now_at", { what: whereWords(moved) }))] : []),
    ...(taken.length ? [el("ol", "", ...taken.map(line))] : []),
    causes(beliefs),
  ]);
}

// On the plan: an arrow from where each came to where it is.
const SVG = "http://www.w3.org/2000/svg";
const plan = document.querySelector(".tray-plan svg");
let drawn = "";
function drawMoved(moved) {
  const said = JSON.stringify(moved);
  if (said === drawn) return;
  drawn = said;
  for (const old of plan.querySelectorAll(".moved-here")) old.remove();
  for (const { cylinder, place } of moved) plan.append(arrow(ring(cylinder), ring(place)));
}

function ring(cylinder) {
  const holes = [...plan.querySelectorAll("[data-hole]")];
  const circle = holes.find((h) => Number.parseInt(h.dataset.hole, 10) === cylinder).querySelector("circle");
  return ["cx", "cy", "r"].map((name) => Number(circle.getAttribute(name)));
}

// From rim to rim, bent to its own right: the two of a pair lie apart and leave the numbers free.
const [BENT, HEAD] = [0.34, 17];
function arrow([fromX, fromY, radius], [toX, toY]) {
  const far = Math.hypot(toX - fromX, toY - fromY);
  const [outX, outY] = [-(toY - fromY) / far, (toX - fromX) / far];
  const [x1, y1] = [fromX + outX * radius, fromY + outY * radius];
  const [x2, y2] = [toX + outX * radius, toY + outY * radius];
  const bent = radius * 0.7 + far * BENT;
  const [mx, my] = [(x1 + x2) / 2 + outX * bent, (y1 + y2) / 2 + outY * bent];
  const last = Math.hypot(x2 - mx, y2 - my);
  const [ux, uy] = [((x2 - mx) / last) * HEAD, ((y2 - my) / last) * HEAD];
  const head = `M${x2 - ux - uy * 0.7} ${y2 - uy + ux * 0.7}L${x2} ${y2}L${x2 - ux + uy * 0.7} ${y2 - uy - ux * 0.7}`;
  const made = document.createElementNS(SVG, "path");
  made.setAttribute("d", `M${x1} ${y1}Q${mx} ${my} ${x2} ${y2}${head}`);
  made.setAttribute("class", "moved-here");
  return made;
}

const whereWords = (moved) =>
  moved.map(({ what, cylinder, place }) => say(`find.moved.${what}`, { cylinder, place })).join(", ");

function heading(taken, moved) {
  const last = taken.at(-1);
  const said = last ? `${run.search.acts[last.act].title} ${outcomeWords(last)}` : run.search.complaint;
  return [said, moved.length ? whereWords(moved) : ""].filter(Boolean).join(" · ");
}

const outcomeWords = ({ act, outcome }) => run.search.acts[act].said[outcome] ?? say("find.not_said");

const line = (one) => el("li", "", `${run.search.acts[one.act].title} `, el("b", "", outcomeWords(one)));

// The likeliest first; what is ruled out stands behind, in words.
function causes(beliefs) {
  const every = run.search.causes.map(({ title }, n) => ({ title, share: beliefs[n] }));
  every.sort((one, other) => other.share - one.share);
  const likely = every.filter(({ share }) => share >= RULED_OUT);
  const out = every.filter(({ share }) => share < RULED_OUT).map(({ title }) => title);
  return el(
    "div",
    "causes-now",
    el("b", "", say("find.likely")),
    el(
      "ul",
      "",
      ...likely.map(({ title, share }) => el("li", "", `${title} `, el("b", "", percent(share)), bar(share))),
    ),
    ...(out.length ? [el("p", "", el("b", "", `${say("find.ruled_out")}: `), out.join(", "))] : []),
  );
}

function bar(share) {
  const made = el("progress", "");
  Object.assign(made, { max: 1, value: share });
  made.setAttribute("aria-hidden", "true");
  return made;
}
