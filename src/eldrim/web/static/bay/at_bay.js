// The list of runs on a tablet: where it stands, what it has not sent, and what works without the link.
const STANDS = "eldrim:bay";

// Where the tablet stands goes along with every run that is started on it.
function standsIn() {
  const picks = [...document.querySelectorAll("[data-stands-in]")];
  const tell = (name) =>
    document.querySelectorAll("[data-bay-name]").forEach((field) => {
      field.value = name;
    });
  const kept = picks.find((p) => p.value === localStorage.getItem(STANDS));
  if (kept) {
    kept.checked = true;
    tell(kept.value);
  }
  picks.forEach((p) =>
    p.addEventListener("change", () => {
      keepIfRoom(STANDS, p.value);
      tell(p.value);
    }),
  );
}

// What this tablet holds of any run: kind ("queue" or "refused") and place in its storage.
function held() {
  const found = Object.keys(localStorage).map((key) => [key, /^eldrim:(queue|refused)\/.*:([0-9a-f-]{36})$/.exec(key)]);
  return found
    .filter(([, m]) => m)
    .map(([key, [, kind, run]]) => ({ key, kind, run, ...JSON.parse(localStorage.getItem(key)) }));
}

function line(...inside) {
  const made = document.createElement("div");
  made.append(...inside);
  return made;
}

function words(text) {
  return Object.assign(document.createElement("p"), { textContent: text });
}

function showHeld() {
  const place = document.getElementById("on-tablet");
  const every = held();
  place.hidden = every.length === 0;
  place.replaceChildren();
  for (const run of new Set(every.map((h) => h.run))) {
    const title = localStorage.getItem(`eldrim:title:${run}`) ?? run;
    const mine = every.filter((h) => h.run === run);
    const waiting = mine.filter((h) => h.kind === "queue").length;
    const go = Object.assign(document.createElement("a"), {
      href: `/bay/runs/${run}`,
      className: "btn-big",
      textContent: translated("Open it, to send"),
    });
    if (waiting)
      place.append(
        line(words(translated("{title}: {waiting} not sent yet, kept on this tablet", { title, waiting })), go),
      );
    mine.filter((h) => h.kind === "refused").forEach((h) => place.append(refused(title, h)));
  }
}

function refused(title, { key, entry, why }) {
  const away = Object.assign(document.createElement("button"), {
    type: "button",
    className: "btn-big",
    textContent: translated("Let it go"),
  });
  away.addEventListener("click", () => {
    localStorage.removeItem(key);
    showHeld();
  });
  const what = [entry.value, entry.unit].filter((p) => p !== undefined && p !== null && p !== "").join(" ");
  const slots = { title, step: entry.step, what, why };
  return line(words(translated("{title}: not taken by the server at {step} {what}: {why}", slots)), away);
}

// Without the link, runs that are kept here can go on; nothing new can be started.
async function withoutLink() {
  try {
    await fetch("/healthz", { cache: "no-store" });
    return;
  } catch {
    document.getElementById("no-link").hidden = false;
  }
  document.querySelectorAll(".units button").forEach((b) => {
    b.disabled = true;
  });
  for (const link of document.querySelectorAll(".runs a")) {
    if (window.caches && !(await caches.match(new URL(link.href).pathname)))
      link.append(
        Object.assign(document.createElement("em"), {
          className: "needs",
          textContent: translated("Not kept on this tablet"),
        }),
      );
  }
}

standsIn();
showHeld();
withoutLink();
