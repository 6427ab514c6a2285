// A unit's label scanned in the bay brings up what goes on, and what can be started, on that unit.
import { scan } from "./camera.js";

const asked = document.querySelector("[data-find-unit]");
document.body.classList.add("scripted");
asked.addEventListener("click", () => {
  scan(document.getElementById("camera"), asked.dataset, (text) => {
    location.assign(`/bay?label=${encodeURIComponent(text)}`);
  });
});
