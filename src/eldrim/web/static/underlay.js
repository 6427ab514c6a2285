// A photo of the engine: a click in it marks the place that is chosen, and the next is asked for.

const photo = document.querySelector("[data-underlay]");
const rows = [...document.querySelectorAll("[data-place]")];
const fieldsOf = (row) => row.querySelectorAll("input.form-control");
const SVG = "http://www.w3.org/2000/svg";

function drawn(tag, attributes, text = "") {
  const made = document.createElementNS(SVG, tag);
  for (const [name, value] of Object.entries(attributes)) made.setAttribute(name, value);
  made.textContent = text;
  return made;
}

function showMarks() {
  for (const old of photo.querySelectorAll(".mark")) old.remove();
  const size = photo.viewBox.baseVal.width / 60;
  for (const row of rows) {
    const [x, y] = [...fieldsOf(row)].map((field) => Number.parseFloat(field.value.replace(",", ".")));
    if (Number.isNaN(x) || Number.isNaN(y)) continue;
    const mark = drawn("g", { class: "mark", transform: `translate(${x} ${y})` });
    mark.append(drawn("circle", { r: size }), drawn("path", { d: `M${-size} 0H${size}M0 ${-size}V${size}` }));
    mark.append(drawn("text", { x: size * 1.3, y: -size * 0.6, "font-size": size * 2 }, row.dataset.place));
    photo.append(mark);
  }
}

photo.addEventListener("click", (event) => {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(photo.getScreenCTM().inverse());
  const here = rows.findIndex((row) => row.querySelector("[type=radio]").checked);
  const [across, down] = fieldsOf(rows[here]);
  across.value = at.x.toFixed(0);
  down.value = at.y.toFixed(0);
  const next = [...rows.slice(here + 1), ...rows].find((row) => !fieldsOf(row)[0].value);
  if (next) next.querySelector("[type=radio]").checked = true;
  showMarks();
});
document.addEventListener("input", showMarks);
showMarks();
