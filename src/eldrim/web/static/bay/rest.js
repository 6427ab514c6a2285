// After a step changes, what closes steps rests until every finger and key has left and a moment has
// gone: a double tap closes one step, not two.

const REST_MS = 600;
let until = 0;
let held = 0;
let waits = null;
let changed = () => {};

// `act` is called whenever it begins or ends to rest.
export function onRest(act) {
  changed = act;
}
export const resting = () => performance.now() < until || (held > 0 && until > 0);

export function rest() {
  until = performance.now() + REST_MS;
  wake();
}

function wake() {
  clearTimeout(waits);
  changed();
  waits = setTimeout(() => {
    if (!resting()) until = 0;
    changed();
  }, REST_MS + 10);
}

// A finger or key that is down when the step changes counts from when it leaves.
function left() {
  held = 0;
  if (until) rest();
}
for (const down of ["pointerdown", "keydown"])
  document.addEventListener(down, (event) => {
    if (!event.repeat) held += 1;
  });
for (const up of ["pointerup", "pointercancel", "keyup"]) document.addEventListener(up, left);
window.addEventListener("blur", left);
