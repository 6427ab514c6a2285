// What is typed into a form and not sent yet is kept in this browser, and is back after a reload
// or a closed window. Sent and accepted, it is forgotten.

const KEPT_DAYS = 14;

function keepKey(form) {
  return `eldrim:${document.body.dataset.user}:${form.getAttribute("action")}:${form.dataset.keep}`;
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
  if (changed.length) localStorage.setItem(keepKey(form), JSON.stringify({ at: Date.now(), fields: changed }));
  else localStorage.removeItem(keepKey(form));
}

function bringBack(form) {
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
  said.textContent = "What you typed here was not kept yet. It is back. ";
  const away = document.createElement("button");
  away.type = "button";
  away.className = "plain";
  away.textContent = "Forget it";
  away.addEventListener("click", () => {
    localStorage.removeItem(keepKey(form));
    form.reset();
    said.remove();
  });
  said.append(away);
  form.prepend(said);
}

// A form that was sent is forgotten once a page came back that says it was taken.
const sent = sessionStorage.getItem("eldrim:sent");
if (sent) {
  sessionStorage.removeItem("eldrim:sent");
  if (Number(document.body.dataset.status) < 400) localStorage.removeItem(sent);
}

document.querySelectorAll("form[data-keep]").forEach(bringBack);
document.addEventListener("input", (event) => {
  const form = event.target.closest("form[data-keep]");
  if (form) keepTyped(form);
});
document.addEventListener("submit", (event) => {
  if (event.target.matches("form[data-keep]")) sessionStorage.setItem("eldrim:sent", keepKey(event.target));
});
