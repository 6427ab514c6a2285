// A run on the tablet. Loaded first; the rest hangs on what each part is for.

import { onChange, onFull, send, state } from "./queue.js";
import { keptWithPage, page, run, say } from "./run.js";
import { renderSearch } from "./search.js";
import { refuse, render } from "./view.js";
import "./forms.js";
import "./hands.js";
import "./devices.js";
import "./pad.js";
import "./scan.js";
import { renderVerdict } from "./verdict.js";

onChange(() => {
  renderAll();
});
onFull(() => refuse(say("bay.full")));
document.body.classList.add("scripted");
if (location.pathname !== page) history.replaceState(null, "", page);
keepIfRoom(`eldrim:title:${run.run}`, document.querySelector("[data-bay]").dataset.title);
renderAll();
send();

function renderAll() {
  render();
  renderSearch(state());
  renderVerdict(state());
}

// Kept at once, not only at the next visit: the page and all it is made of.
async function keepPage() {
  const taken = new Promise((go) => {
    navigator.serviceWorker.addEventListener("controllerchange", go, { once: true });
  });
  await navigator.serviceWorker.register("/sw.js");
  // Only what is asked for through the worker is kept, so it must have taken the page first.
  const { active } = await navigator.serviceWorker.ready;
  if (!navigator.serviceWorker.controller) {
    active.postMessage("take");
    await taken;
  }
  const loaded = performance.getEntriesByType("resource").map((r) => new URL(r.name));
  const own = loaded
    .filter((u) => u.origin === location.origin && u.pathname.startsWith("/static/"))
    .map((u) => u.pathname);
  const icon = document.querySelector("link[rel=icon]").href;
  const later = [...document.querySelectorAll("link[data-later]")].map((l) => l.href);
  const shelf = await caches.open("eldrim-bay-1");
  const wanted = [page, "/bay", icon, ...own, ...later, ...keptWithPage()];
  await Promise.all(
    wanted.map(async (a) => {
      if (!(await shelf.match(a))) await fetch(a);
      if (!(await shelf.match(a))) throw new Error(a);
    }),
  );
  await forgetOld(shelf);
  // So that the browser does not take the room for something else.
  await navigator.storage?.persist?.();
  document.getElementById("kept").hidden = false;
}
// Scripts of older versions, and cards of other editions: some stay, for runs that are kept.
const KEPT = [
  [/^\/static\/[^/]+\//, 3],
  [/^\/bay\/cards\/.+/, 12],
];
async function forgetOld(shelf) {
  const all = await shelf.keys();
  for (const [what, most] of KEPT) {
    const of = (request) => what.exec(new URL(request.url).pathname)?.[0];
    const gone = [...new Set(all.map(of).filter(Boolean))].slice(0, -most);
    await Promise.all(all.filter((r) => gone.includes(of(r))).map((r) => shelf.delete(r)));
  }
}
// What did not come is asked for again, later each time.
const [FIRST_AGAIN_MS, LAST_AGAIN_MS] = [2000, 60000];
function keep(wait = FIRST_AGAIN_MS) {
  keepPage().catch(() => setTimeout(keep, wait, Math.min(2 * wait, LAST_AGAIN_MS)));
}
if ("serviceWorker" in navigator) keep();
