// The holes as the engine has them: how far each is, and what is next at it. Tapped, that step is
// taken in hand.
import { el, fill, run, say, steps } from "./run.js";
import { first, stage } from "./rules.js";

// A column narrower than this holds no words.
const LEAST_COLUMN = 110;
const numbers = [...new Set(steps.filter((s) => s.hole).map((s) => s.hole))]
  .sort((a, b) => parseInt(a, 10) - parseInt(b, 10) || (a < b ? -1 : 1));

export function renderTray(now, here, show) {
  const place = document.getElementById("tray");
  place.hidden = numbers.length === 0;
  const row = place.querySelector(".tray-holes") ?? place.appendChild(el("div", "tray-holes"));
  const columns = Math.max(...numbers.map((h) => (run.tray[h] || [1])[0]));
  const wide = window.innerWidth / columns > LEAST_COLUMN;
  row.style.gridTemplateColumns = wide ? `repeat(${columns}, minmax(0, 1fr))` : "";
  fill(row, [[...now.done], here.hole, wide], () => numbers.map((hole) => drawHole(hole, now, here, show, wide)));
}

function drawHole(hole, now, here, show, wide) {
  const made = el("button", "tray-hole", el("b", "", hole), el("span", "", say(`stage.${stage(steps, hole, now)}`)));
  made.type = "button";
  made.classList.toggle("here", here.hole === hole);
  const next = steps.find((s) => s.hole === hole && !now.done.has(s.key));
  if (next) {
    const before = first(steps, next, now);
    made.append(el("small", "", before ? `${say("bay.open")}: ${before.text}` : next.text));
    made.addEventListener("click", () => show(next.key));
  }
  const [column, line] = run.tray[hole] || [];
  if (column && wide) { made.style.gridColumn = column; made.style.gridRow = line; }
  return made;
}
