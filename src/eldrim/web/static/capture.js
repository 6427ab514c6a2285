// Drawing on the plan: parts are dragged, sized and moved by keys; the server keeps each act.

const GRID = 5;
let hold = null;

function board() {
  return document.querySelector("[data-capture]");
}

function act(name, values) {
  const here = board();
  const all = { number: here.dataset.number, part: here.dataset.partInHand, ...values };
  return window.htmx.ajax("POST", `${here.dataset.capture}/${name}`, {
    target: "#capture",
    swap: "outerHTML",
    values: all,
  });
}

// A second click on the part in hand takes the one that lies under it there.
function under(part, event) {
  const found = document.elementsFromPoint(event.clientX, event.clientY).map((at) => at.closest("[data-edit]"));
  const keys = [...new Set(found.filter(Boolean).map((at) => at.dataset.edit))];
  return keys[(keys.indexOf(part) + 1) % keys.length] ?? part;
}

// Beside the engine: a tap on the plan says where a part lies that is not drawn yet.
document.addEventListener("click", (event) => {
  const svg = event.target.closest("[data-place-on] svg");
  const said = document.querySelector("[data-placed]");
  if (!svg || !said) return;
  const at = toPlan(svg, event);
  const form = said.closest("form");
  form.elements.x.value = at.x.toFixed(0);
  form.elements.y.value = at.y.toFixed(0);
  said.textContent = translated("It lies where you tapped. Now say what it is.");
});

// Copies what stands in the first row of a column to the rows below.
document.addEventListener("click", (event) => {
  const column = event.target.closest("[data-copy-down]");
  if (!column) return;
  const [first, ...rest] = column.closest("form").querySelectorAll(`[name^="${column.dataset.copyDown}-"]`);
  for (const field of rest) field.value = first.value;
});

// After an act the keyboard is where the work is: at the question that is asked, at the joints of a
// part just put on or held, else in the form that was sent, which may have moved.
let acted = null;
// Which of several like forms one is: that of a joint, a way, a hindrance.
const ofWhat = (form) => ["key", "index", "place"].map((name) => form.elements[name]?.value ?? "").join("/");
// The form that was sent; else another of the same joint, way or hindrance, where that is left.
function formAfter(to, of) {
  const forms = [...board().querySelectorAll("form")];
  const sent = forms.filter((one) => one.getAttribute("hx-post") === to);
  return sent.find((one) => ofWhat(one) === of) ?? forms.find((one) => of !== "//" && ofWhat(one) === of);
}
document.addEventListener("htmx:beforeRequest", (event) => {
  const form = event.target.closest("[data-capture] form");
  if (form) acted = { to: form.getAttribute("hx-post"), name: document.activeElement?.name ?? "", of: ofWhat(form) };
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (!acted || event.target.id !== "capture" || !board()) return;
  const { to, name, of } = acted;
  acted = null;
  const form = formAfter(to, of);
  const asking = board().querySelector(".question button");
  const held = /\/(add|joint|answer)$/.test(to) ? (asking ?? document.getElementById("joint")) : null;
  const first = form?.elements[name] ?? form?.querySelector("input:not([type=hidden]), button");
  const at = held ?? first ?? asking ?? document.getElementById("joint");
  for (let box = at?.closest("details"); box; box = box.parentElement.closest("details")) box.open = true;
  at?.focus({ preventScroll: Boolean(held) });
});

// A key that answered one question does not answer the next before it could be read.
const READ_MS = 600;
let [asked, since] = ["", 0];
const question = () => board()?.querySelector(".question p")?.textContent ?? "";
document.addEventListener("htmx:afterSwap", (event) => {
  // Why an act was refused stands at its field, or else at its form, and is brought into view.
  if (event.target.matches(".form-said")) {
    const why = event.target.textContent.trim();
    if (window.sayAtField(event.target.closest("form"), why)) event.target.replaceChildren();
    else event.target.scrollIntoView({ block: "nearest" });
  }
  if (question() !== asked) [asked, since] = [question(), Date.now()];
});
document.addEventListener("DOMContentLoaded", () => {
  asked = question();
});

function take(part) {
  const here = board();
  if (here.dataset.partInHand === part) return;
  const address = `${here.dataset.capture}?part=${encodeURIComponent(part)}`;
  window.htmx.ajax("GET", address, { target: "#capture", swap: "outerHTML" });
}

// Pixels on the screen to millimetres on the plan.
function toPlan(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

const gripOf = (event) => board() && event.target.closest("[data-holder], [data-between], [data-size], [data-edit]");

// A finger on something that is dragged does not scroll the page; beside it, it does.
document.addEventListener("touchstart", (event) => gripOf(event) && event.preventDefault(), { passive: false });

// What the browser takes over is not dragged any more.
document.addEventListener("pointercancel", () => {
  hold?.grip.removeAttribute("transform");
  hold = null;
});

document.addEventListener("pointerdown", (event) => {
  const grip = gripOf(event);
  if (!grip) return;
  const svg = grip.closest("svg");
  event.preventDefault();
  hold = { grip, svg, from: toPlan(svg, event), sizing: grip.hasAttribute("data-size"), dx: 0, dy: 0 };
  svg.setPointerCapture(event.pointerId);
});

document.addEventListener("pointermove", (event) => {
  if (!hold) return;
  const now = toPlan(hold.svg, event);
  hold.dx = GRID * Math.round((now.x - hold.from.x) / GRID);
  hold.dy = GRID * Math.round((now.y - hold.from.y) / GRID);
  hold.grip.setAttribute("transform", `translate(${hold.dx} ${hold.dy})`);
});

document.addEventListener("pointerup", (event) => {
  if (!hold) return;
  const { grip, sizing, dx, dy } = hold;
  hold = null;
  if (grip.dataset.holder || grip.dataset.between) {
    if (grip.dataset.between || dx || dy) route(grip, dx, dy);
    else grip.focus();
    return;
  }
  const part = grip.dataset.size || grip.dataset.edit;
  // A lead is not moved as a whole: its holders are.
  if ((dx || dy) && !part.startsWith(LEAD)) act(sizing ? "resize" : "move", { part, dx, dy });
  else if (!sizing) take(part === board().dataset.partInHand ? under(part, event) : part);
});

// Moves a holder of a lead, a corner of a part or a piece of what holds it by so much; or puts one
// on there.
const LEAD = "lead/";
function route(grip, dx, dy) {
  const [lead, place, key] = (grip.dataset.holder ?? grip.dataset.between).split("/");
  if (grip.dataset.of === "piece") return act("piece", { part: lead, key, place, dx, dy });
  const what = grip.dataset.of === "part" ? "corner" : "holder";
  const whose = what === "corner" ? { part: lead } : { lead };
  if (grip.dataset.holder) return act(what, { ...whose, place, dx, dy });
  const [x, y] = [grip.cx.baseVal.value + dx, grip.cy.baseVal.value + dy].map(Math.round);
  return act(`new-${what}`, { ...whose, place, x, y });
}

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

document.addEventListener("keydown", (event) => {
  const here = board();
  if (!here || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target.closest("input, textarea, select, dialog")) return;
  const marked = event.target.closest("[data-holder], [data-between]");
  if (marked && onMark(marked, event.key)) {
    event.preventDefault();
    return;
  }
  const focused = event.target.closest("[data-edit]");
  if (focused && (event.key === "Enter" || event.key === " ")) {
    event.preventDefault();
    take(focused.dataset.edit);
    return;
  }
  const way = ARROWS[event.key];
  if (way && here.dataset.partInHand && !here.dataset.partInHand.startsWith(LEAD)) {
    event.preventDefault();
    const step = 2 * GRID;
    act(event.shiftKey ? "resize" : "move", { dx: way[0] * step, dy: way[1] * step });
    return;
  }
  const button = here.querySelector(`[data-capture-key="${CSS.escape(event.key)}"]`);
  if (button && !button.disabled) {
    event.preventDefault();
    if (button.name === "answer" && (event.repeat || Date.now() - since < READ_MS)) return;
    button.click();
  }
});

// Keys on a holder or where one can be put; whether the key meant something there.
function onMark(mark, key) {
  const way = ARROWS[key];
  if (mark.dataset.between && (key === "Enter" || key === " ")) route(mark, 0, 0);
  else if (mark.dataset.holder && way) route(mark, 2 * GRID * way[0], 2 * GRID * way[1]);
  else if (mark.dataset.holder && (key === "Delete" || key === "Backspace")) {
    const [lead, place, key] = mark.dataset.holder.split("/");
    if (mark.dataset.of === "piece") act("unplace-joint", { part: lead, key });
    else if (mark.dataset.of === "part") act("drop-corner", { part: lead, place });
    else act("drop-holder", { lead, place });
  } else return false;
  return true;
}
