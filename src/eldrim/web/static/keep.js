// What is typed into a form and not sent yet is kept in this browser, and is back after a reload
// or a closed window. Sent and accepted, it is forgotten; refused, one is back at the form with
// everything typed, and the reason stands there.

const KEPT_DAYS = 14;

// A form without a name of its own is told by its place among those that send to the same address.
function nameOf(form) {
  if (form.dataset.keep) return form.dataset.keep;
  const alike = [...document.forms].filter((one) => one.getAttribute("action") === form.getAttribute("action"));
  return `#${alike.indexOf(form)}`;
}

function keepKey(form) {
  return `eldrim:${document.body.dataset.user}:${form.getAttribute("action")}:${nameOf(form)}`;
}

function keepable(form) {
  return [...form.elements].filter(
    (el) =>
      el.name && el.matches("input, textarea, select") && !["hidden", "file", "password", "submit"].includes(el.type),
  );
}

function untouched(el) {
  if (el.type === "checkbox" || el.type === "radio") return el.checked === el.defaultChecked;
  if (el.matches("select"))
    return (
      [...el.options].every((o) => o.selected === o.defaultSelected) ||
      ([...el.options].every((o) => !o.defaultSelected) && el.selectedIndex === 0)
    );
  return el.value === el.defaultValue;
}

function readKept(key) {
  try {
    const kept = JSON.parse(localStorage.getItem(key));
    return kept && Date.now() - kept.at < KEPT_DAYS * 86400000 ? kept.fields : null;
  } catch {
    return null;
  }
}

function keepTyped(form) {
  const changed = keepable(form)
    .map((el, i) => [i, el])
    .filter(([, el]) => !untouched(el))
    .map(([i, el]) => [i, el.name, el.type === "checkbox" || el.type === "radio" ? el.checked : el.value]);
  if (changed.length) keepIfRoom(keepKey(form), JSON.stringify({ at: Date.now(), fields: changed }));
  else localStorage.removeItem(keepKey(form));
}

function bringBack(form) {
  if (form.matches(".brought-back")) return;
  const fields = readKept(keepKey(form));
  if (!fields) return;
  const elements = keepable(form);
  for (const [i, name, value] of fields) {
    const el = elements[i];
    if (!el || el.name !== name) continue;
    if (typeof value === "boolean") el.checked = value;
    else el.value = value;
  }
  form.classList.add("brought-back");
  const said = document.createElement("p");
  said.className = "brought";
  said.setAttribute("role", "status");
  said.textContent = `${translated("What you typed here was not kept yet. It is back.")} `;
  const away = document.createElement("button");
  away.type = "button";
  away.className = "plain";
  away.textContent = translated("Forget it");
  away.addEventListener("click", () => {
    localStorage.removeItem(keepKey(form));
    form.reset();
    said.remove();
  });
  said.append(away);
  form.prepend(said);
}

const POSTED = "form[method=post]:not([hx-post], [data-entry], .sign-in form)";

// The forms of a step, and of the house rules here, are fetched when they are opened.
async function fetchForms(details) {
  const { forms } = details.dataset;
  if (!forms) return;
  delete details.dataset.forms;
  const answer = await fetch(forms).catch(() => new Response("", { status: 503 }));
  if (answer.redirected) window.location.reload();
  details.querySelector(":scope > .refusal")?.remove();
  // Asked for again when it is opened again.
  if (!answer.ok) details.dataset.forms = forms;
  const missing = '<p class="refusal" role="alert">The forms did not come. Close this and open it again.</p>';
  details.insertAdjacentHTML("beforeend", answer.ok ? await answer.text() : missing);
  window.htmx?.process(details);
  details.querySelectorAll("form[data-keep]:not(.brought-back)").forEach(bringBack);
}
document.addEventListener(
  "toggle",
  (event) => event.target.matches?.("details[open][data-forms]") && fetchForms(event.target),
  true,
);

// The steps of an act are fetched when one of them is asked for.
async function unfold(isAsked) {
  const acts = [...document.querySelectorAll("details[data-steps]")];
  const asked = acts.filter(({ dataset: { steps } }) => steps.split(" ").some(isAsked));
  await Promise.all(
    asked.map(async (act) => {
      await fetchForms(act);
      act.open = true;
    }),
  );
}

async function showNamed() {
  const named = decodeURIComponent(window.location.hash.slice(1));
  if (!named || document.getElementById(named)) return;
  await unfold((step) => step === named);
  const step = document.getElementById(named);
  step?.scrollIntoView();
  step?.classList.add("named");
}
window.addEventListener("hashchange", showNamed);

// Those of steps at which something was typed and not kept, or refused, are fetched at once.
const isOf = (key, step) => key.endsWith(`:${step}`) || key.includes(`:${step}/`);

async function fetchKept() {
  const refused = JSON.parse(sessionStorage.getItem("eldrim:refused") ?? "null")?.key;
  const typed = [...Object.keys(localStorage).filter((key) => readKept(key)), refused].filter((key) =>
    key?.includes(`:${window.location.pathname}/`),
  );
  await unfold((step) => typed.some((key) => isOf(key, step)));
  const places = [...document.querySelectorAll("[data-forms]")].filter(({ dataset: { step, forms } }) =>
    typed.some((key) => (step ? isOf(key, step) : key.includes(`:${forms}:`))),
  );
  await Promise.all(
    places.map(async (details) => {
      await fetchForms(details);
      details.open = true;
    }),
  );
}

// What was refused is said at the form it was sent by.
function sayRefused() {
  const refused = JSON.parse(sessionStorage.getItem("eldrim:refused") ?? "null");
  sessionStorage.removeItem("eldrim:refused");
  const form = refused && [...document.querySelectorAll(POSTED)].find((one) => keepKey(one) === refused.key);
  if (!form) return;
  bringBack(form);
  for (let at = form.closest("details"); at; at = at.parentElement.closest("details")) at.open = true;
  if (window.sayAtField(form, refused.why)) return;
  const said = Object.assign(document.createElement("p"), { className: "refusal", textContent: refused.why });
  said.setAttribute("role", "alert");
  form.prepend(said);
  said.scrollIntoView({ block: "center" });
  form.querySelector("input:not([type=hidden]), textarea, select")?.focus({ preventScroll: true });
}

// Back from a page that only says that nothing was kept, to the form with all that was typed.
function afterSending({ key, from }) {
  sessionStorage.removeItem("eldrim:posted");
  if (Number(document.body.dataset.status) < 400) {
    localStorage.removeItem(key);
    return;
  }
  const dead = document.querySelector("[data-dead-end]");
  if (!dead || !from) return;
  keepIfRoom("eldrim:refused", JSON.stringify({ key, why: dead.querySelector("p").textContent }), sessionStorage);
  window.location.replace(from);
}

const sent = sessionStorage.getItem("eldrim:posted");
if (sent) afterSending(JSON.parse(sent));
// On the page that says so itself, the reason waits for the one that is on its way.
if (!document.querySelector("[data-dead-end]")) fetchKept().then(sayRefused).then(showNamed);
document.querySelectorAll("form[data-keep]:not(.brought-back)").forEach(bringBack);
document.addEventListener("input", (event) => {
  const form = event.target.closest(POSTED);
  if (form) keepTyped(form);
});
document.addEventListener("submit", (event) => {
  if (!event.target.matches(POSTED)) return;
  keepTyped(event.target);
  const about = { key: keepKey(event.target), from: window.location.href };
  keepIfRoom("eldrim:posted", JSON.stringify(about), sessionStorage);
});
