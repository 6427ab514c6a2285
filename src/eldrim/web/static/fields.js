// A refusal stands at the field it speaks of: found by what it quotes, or by what it calls the
// field. The field is marked, described by it, and has the cursor.

let refusals = 0;

const calls = (field) =>
  [field.getAttribute("aria-label"), ...[...(field.labels ?? [])].map((label) => label.textContent)]
    .filter(Boolean)
    .map((words) => words.trim().toLowerCase());

function fieldOf(form, why) {
  const fields = [...form.elements].filter((el) => el.name && el.matches("input:not([type=hidden]), textarea, select"));
  const quoted = [...why.matchAll(/'([^']+)'/g)].map(([, said]) => said.trim());
  const place = why.split(":")[0].trim().toLowerCase();
  const words = [place, place.replaceAll("_", " ")];
  // "cylinder 3, room over" is the field of that hole called so.
  const [, hole, name] = place.match(/^cylinder (\S+), (.+)$/) ?? [];
  return (
    fields.find((el) => el.type !== "checkbox" && quoted.includes(el.value.trim())) ??
    fields.find((el) => hole && calls(el).some((said) => said.startsWith(name) && said.endsWith(`hole ${hole}`))) ??
    fields.find((el) => words.includes(el.name) || calls(el).some((said) => words.some((w) => said.startsWith(w))))
  );
}

// Under the field; in a table under its row, where there is room for a sentence.
function stand(said, field) {
  const row = field.closest("td")?.parentElement;
  if (!row) return (field.closest("label") ?? field).after(said);
  const below = document.createElement("tr");
  const cell = below.insertCell();
  cell.colSpan = row.cells.length;
  cell.append(said);
  row.after(below);
}

function unmark(field) {
  const said = document.getElementById(field.getAttribute("aria-errormessage"));
  (said?.closest("tr") ?? said)?.remove();
  field.removeAttribute("aria-invalid");
  field.removeAttribute("aria-errormessage");
  field.removeAttribute("aria-describedby");
}

// Puts why something was refused at its field; false where it speaks of none.
function sayAtField(form, why) {
  for (const field of form.querySelectorAll("[aria-invalid]")) unmark(field);
  const field = fieldOf(form, why);
  if (!field) return false;
  refusals += 1;
  const said = document.createElement("p");
  said.id = `refusal-${refusals}`;
  said.className = "refusal at-field";
  said.setAttribute("role", "alert");
  said.textContent = why;
  field.setAttribute("aria-invalid", "true");
  field.setAttribute("aria-errormessage", said.id);
  field.setAttribute("aria-describedby", said.id);
  for (let box = field.closest("details"); box; box = box.parentElement.closest("details")) box.open = true;
  stand(said, field);
  field.addEventListener("input", () => unmark(field), { once: true });
  field.focus({ preventScroll: true });
  field.select?.();
  said.scrollIntoView({ block: "nearest" });
  return true;
}

window.sayAtField = sayAtField;
