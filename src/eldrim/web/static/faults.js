// The adapter is asked for its codes; what else it says stands beside the button.

document.addEventListener("click", async (event) => {
  const pressed = event.target.closest("[data-read-codes]");
  if (!pressed) return;
  const told = document.querySelector("[data-codes-said]");
  told.textContent = "";
  try {
    const answer = await fetch("/api/v1/devices/codes");
    const said = await answer.json();
    if (!answer.ok) throw new Error(said.error);
    const [codes, ...rest] = said.value.split(";");
    const field = document.querySelector("[name=codes]");
    field.value = codes.trim() === "none" ? "" : codes.trim();
    told.textContent = codes.trim() === "none" ? translated("No codes.") : rest.join(";").trim();
    field.dispatchEvent(new Event("input", { bubbles: true }));
  } catch (error) {
    told.textContent = error.message || translated("The adapter does not answer.");
  }
});

// What is followed or kept is what stands in the fields, also where its answer is still on its way.
const TYPED = ["codes", "signs", "age", "prices"];
document.addEventListener("submit", (event) => {
  const follow = event.target.closest(".fault-follow");
  const asked = document.querySelector(".fault-form");
  if (!follow || !asked) return;
  const now = new FormData(asked);
  for (const name of TYPED) follow.elements[name].value = now.get(name) ?? "";
  for (const old of follow.querySelectorAll("input[name=symptoms]")) old.remove();
  for (const value of now.getAll("symptoms")) {
    follow.append(Object.assign(document.createElement("input"), { type: "hidden", name: "symptoms", value }));
  }
});
