// The tray of the page that says what plugs tell: holes laid out as the engine has them, and signs put
// in by tapping a face.

const fields = [...document.querySelectorAll("[data-signs]")];
let last = fields[0];

for (const label of document.querySelectorAll("[data-column]")) {
  label.style.gridColumn = label.dataset.column;
  label.style.gridRow = label.dataset.row;
}

document.addEventListener("focusin", (event) => {
  if (event.target.matches("[data-signs]")) last = event.target;
});

// Tapped again it is taken out; a double tap is one.
const DOUBLE_MS = 500;
let tapped = { sign: "", at: 0 };
document.addEventListener("click", (event) => {
  const face = event.target.closest("[data-sign]");
  if (!face || !last) return;
  const again = tapped.sign === face.dataset.sign && event.timeStamp - tapped.at < DOUBLE_MS;
  tapped = { sign: face.dataset.sign, at: event.timeStamp };
  if (again) return;
  const said = last.value
    .split(",")
    .map((word) => word.trim())
    .filter(Boolean);
  const without = said.filter((word) => word !== face.dataset.sign);
  last.value = (without.length < said.length ? without : [...said, face.dataset.sign]).join(", ");
  last.dispatchEvent(new Event("input", { bubbles: true }));
});
