// Progressive behaviour. Every page works by links and forms alone; this makes it quick.

// Ids of entries are made here, so that a form sent twice is one entry.
function freshId() {
  const b = crypto.getRandomValues(new Uint8Array(16));
  b[6] = (b[6] & 0x0f) | 0x40;
  b[8] = (b[8] & 0x3f) | 0x80;
  const h = Array.from(b, (x) => x.toString(16).padStart(2, "0")).join("");
  return `${h.slice(0, 8)}-${h.slice(8, 12)}-${h.slice(12, 16)}-${h.slice(16, 20)}-${h.slice(20)}`;
}

// A text in the language of the page, its {slots} filled: the page brings the words of scripts along
// where it is not English.
const pageWords = JSON.parse(document.getElementById("page-words")?.textContent || "{}");
window.translated = (text, slots = {}) => (pageWords[text] ?? text).replace(/\{(\w+)\}/g, (_, name) => slots[name]);

// Kept in the browser where there is room; where there is none, what was kept stays and the page
// goes on.
function keepIfRoom(key, text, shelf = localStorage) {
  try {
    shelf.setItem(key, text);
  } catch {
    /* nothing hangs on it */
  }
}

// The sheet's own photo under a plan is shown or hidden, everywhere alike. A board shows it at once.
const PHOTO_SHOWN = "eldrim:photo";
function showPhoto(root = document) {
  const kept = localStorage.getItem(PHOTO_SHOWN);
  const shown = kept ? kept === "yes" : Boolean(document.querySelector("[data-capture]"));
  document.body.classList.toggle("with-photo", shown);
  for (const one of root.querySelectorAll("[data-photo]")) one.setAttribute("aria-pressed", String(shown));
}
document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-photo]")) return;
  keepIfRoom(PHOTO_SHOWN, document.body.classList.contains("with-photo") ? "no" : "yes");
  showPhoto();
});

function prepare(root) {
  showPhoto(document);
  root.querySelectorAll("[data-client-id]").forEach((field) => {
    field.value = freshId();
  });
  // Once and at once: htmx would do it again a moment later, under the fingers of whoever is typing.
  root.querySelectorAll("[autofocus]").forEach((field) => {
    field.focus();
    field.removeAttribute("autofocus");
  });
}

// One swap after the other: a key pressed while an answer is on its way acts on that answer.
let pending = Promise.resolve();

function keyed(key) {
  return key ? document.querySelector(`a[data-swap][data-key="${CSS.escape(key)}"]`) : null;
}

function swap(link) {
  const key = link.dataset.key;
  pending = pending.then(async () => {
    const now = keyed(key) || link;
    const address = now.getAttribute("href");
    await window.htmx.ajax("GET", address, { target: now.dataset.swap, swap: "outerHTML" });
    history.pushState({}, "", address);
    const again = keyed(key);
    if (again) again.focus({ preventScroll: true });
  });
}

// A click on a photo says where the mark goes; what it says is typed next.
function pickPlace(event, photo) {
  const box = photo.querySelector("svg").getBoundingClientRect();
  const form = document.getElementById(photo.dataset.markOn);
  form.elements.x.value = ((100 * (event.clientX - box.left)) / box.width).toFixed(1);
  form.elements.y.value = ((100 * (event.clientY - box.top)) / box.height).toFixed(1);
  form.elements.words.focus();
}

// What is pointed at may be several parts, apart by blanks.
function point(parts, on) {
  const meant = new Set(parts.split(" "));
  document.querySelectorAll("[data-part]").forEach((el) => {
    el.classList.toggle("pointed", on && el.dataset.part.split(" ").some((part) => meant.has(part)));
  });
}

// Answers to a search go away once one looks elsewhere.
document.addEventListener("focusin", (event) => {
  const found = document.getElementById("found");
  if (found && !event.target.closest(".search")) found.replaceChildren();
});

document.addEventListener("click", (event) => {
  const link = event.target.closest("a[data-swap]");
  if (link && window.htmx && !event.ctrlKey && !event.metaKey && !event.shiftKey) {
    event.preventDefault();
    // What goes on to the next by itself takes a double tap as one.
    if (event.detail < 2 || !link.closest("[data-goes-on]")) swap(link);
  }
  const sums = event.target.closest("[data-sums]");
  if (sums && window.htmx) {
    event.preventDefault();
    openSums(sums.dataset.sums);
  }
  const opener = event.target.closest("[data-open]");
  if (opener) document.getElementById(opener.dataset.open).showModal();
  if (event.target.closest("[data-print]")) window.print();
  const photo = event.target.closest("[data-mark-on]");
  if (photo) pickPlace(event, photo);
});

for (const [name, on] of [
  ["pointerover", true],
  ["pointerout", false],
  ["focusin", true],
  ["focusout", false],
]) {
  document.addEventListener(name, (event) => {
    const el = event.target.closest("[data-part]");
    if (el) point(el.dataset.part, on);
  });
}

window.addEventListener("popstate", () => window.location.reload());

// Quick sums open over whatever is on the screen; what was typed last time is still there.
function openSums(which = "") {
  const dialog = document.getElementById("sums");
  if (!dialog || dialog.open) return;
  dialog.showModal();
  if (document.getElementById("sum") && !which) return;
  window.htmx.ajax("GET", which ? `/sums?sum=${which}` : "/sums", { target: "#sums-body", swap: "innerHTML" });
}

// Along a column of a table of cells, as on squared paper.
function cellKey(event) {
  const step = { Enter: 1, ArrowDown: 1, ArrowUp: -1 }[event.key];
  const cell = event.target.closest("[data-cells] td");
  if (!step || !cell || (event.target.matches("select") && event.key !== "Enter")) return;
  const body = cell.closest("tbody");
  const row = body.rows[[...body.rows].indexOf(cell.parentElement) + step];
  event.preventDefault();
  const next = row?.cells[cell.cellIndex].querySelector("input, select");
  if (!next) return;
  next.focus();
  if (next.select) next.select();
}

// From the search box down the answers and up again.
function alongFound(event) {
  const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!by || !event.target.closest(".search")) return;
  const stops = [document.getElementById("search"), ...document.querySelectorAll("#found a")];
  const next = stops[stops.indexOf(event.target) + by];
  if (!next) return;
  event.preventDefault();
  next.focus();
}

function typing(target) {
  return target.closest("input, textarea, select, [contenteditable]") !== null;
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  cellKey(event);
  alongFound(event);
  const box = event.target.closest("input");
  if (typing(event.target) && !(box && box.type === "checkbox")) return;
  if (event.key === "/" && document.getElementById("search")) {
    event.preventDefault();
    document.getElementById("search").focus();
  } else if (event.key === "=") {
    event.preventDefault();
    openSums();
  } else if (event.key === "?") document.getElementById("keys").showModal();
  else if (document.querySelector("[data-bay]")) return;
  else if (document.querySelector("[data-plan]")) {
    const found = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
    if (!found) return;
    event.preventDefault();
    if (found.matches("a[data-swap]")) swap(found);
    else found.click();
  }
});

document.addEventListener("DOMContentLoaded", () => prepare(document));
// Kept, one is back at the step one worked on, with the keyboard too.
document.addEventListener("DOMContentLoaded", () => {
  const kept = new URLSearchParams(window.location.search).get("kept");
  const step = kept && document.getElementById(kept);
  if (step && document.activeElement === document.body) step.querySelector("summary")?.focus();
});
document.addEventListener("htmx:afterSwap", (event) => prepare(event.target));
// A part that renews itself waits while somebody types in it.
// What was typed between a form's coming and its being listened to is asked for all the same.
const isTyped = (field) => field.matches("input:not([type=hidden])") && field.value !== field.defaultValue;
document.addEventListener("htmx:afterSettle", (event) => {
  for (const form of event.target.querySelectorAll('form[hx-trigger^="input"]'))
    if ([...form.elements].some(isTyped)) window.htmx.trigger(form, "input");
});
document.addEventListener("htmx:beforeRequest", (event) => {
  const place = event.target;
  if (!place.matches?.("[data-live]")) return;
  const typed = [...place.querySelectorAll("input:not([type=hidden]), textarea")].some((field) => field.value);
  if (typed || place.contains(document.activeElement)) event.preventDefault();
});
document.addEventListener("htmx:configRequest", (event) => {
  event.detail.headers["X-CSRF-Token"] = document.body.dataset.csrf;
});

document.addEventListener("alpine:init", () => {
  window.Alpine.data("editing", () => ({
    // What was typed and not kept opens the step it is at; a refused move takes the eye there.
    init() {
      if (this.$el.querySelector(".brought-back")) this.$el.querySelector(".edit-step").open = true;
      const refused = this.$el.querySelector(".refused");
      if (refused)
        setTimeout(() => {
          refused.focus();
          refused.scrollIntoView({ block: "center" });
        });
    },
  }));
});

// Parts that renew themselves: told by the server when something changed; asked for every few
// seconds while it does not tell, and now and then anyway, as minutes go by.
const ASK_MS = 3000;
const ASK_ANYWAY_MS = 15000;
function keepLive(topic) {
  const part = () => document.querySelector(`[data-live="${topic}"]`);
  let told = false;
  let renewed = Date.now();
  const renew = () => {
    if (!part() || document.visibilityState !== "visible") return;
    renewed = Date.now();
    window.htmx?.trigger(part(), "renew");
  };
  if (window.EventSource) {
    const stream = new EventSource(`/live?topic=${topic}`);
    stream.addEventListener("here", () => {
      // Heard again after a break: something may have been missed.
      if (!told && Date.now() - renewed > ASK_MS) renew();
      told = true;
    });
    stream.addEventListener("error", () => {
      told = false;
    });
    stream.addEventListener("changed", renew);
    window.addEventListener("pagehide", () => stream.close());
  }
  window.setInterval(() => {
    if (Date.now() - renewed >= (told ? ASK_ANYWAY_MS : ASK_MS)) renew();
  }, 500);
}
document.addEventListener("DOMContentLoaded", () => {
  const part = document.querySelector("[data-live]");
  if (part) keepLive(part.dataset.live);
});

// The pages a tablet keeps for work without the link are not for the next person. What is unsent
// lies elsewhere, and stays.
const KEPT_PAGES = "eldrim-bay-1";
async function forgetPages() {
  if (!window.caches) return;
  const cache = await caches.open(KEPT_PAGES);
  const kept = await cache.keys();
  const pages = kept.filter((one) => new URL(one.url).pathname.startsWith("/bay"));
  await Promise.all(pages.map((one) => cache.delete(one)));
}
document.addEventListener("submit", (event) => {
  const form = event.target;
  if (form.getAttribute("action") !== "/sign-out" || !window.caches) return;
  event.preventDefault();
  forgetPages().finally(() => form.submit());
});
document.addEventListener("DOMContentLoaded", () => {
  const { user } = document.body.dataset;
  if (!user) return;
  const before = localStorage.getItem("eldrim:user");
  keepIfRoom("eldrim:user", user);
  // Somebody else signed in here without a sign-out before: what was theirs goes, one's own comes.
  if (before && before !== user) forgetPages().then(() => fetch("/bay"));
});
