// Labels scanned in the bay: a unit's says its serial, a bag's says what goes back in.

import { scan } from "./camera.js";
import { writeReading } from "./forms.js";
import { run, say } from "./run.js";
import { card, refuse, show } from "./view.js";

const place = document.getElementById("camera");
const words = { aim: say("scan.aim"), stop: say("scan.stop"), none: say("scan.none") };
const READ = { unit, bag };

document.addEventListener("click", (event) => {
  const wanted = event.target.closest("[data-scan]")?.dataset.scan;
  if (!wanted) return;
  card().querySelector(".act").after(place);
  scan(place, words, (text) => READ[wanted](text));
});

// The plate is judged like a typed one; the label ends with the serial.
function unit(text) {
  const field = card().querySelector('[data-reading="serial"] input[name=value]');
  if (!field) return;
  field.value = text;
  writeReading(field.form);
}

// A bag of this run opens the step that puts back what is in it.
function bag(text) {
  const [, of, key] = /^ELDRIM BAG ([0-9a-f]{8}) (\S+)$/.exec(text) ?? [];
  if (of !== run.run.slice(0, 8) || !run.bags[key]) return refuse(say("scan.other", { text }));
  show(run.bags[key]);
}
