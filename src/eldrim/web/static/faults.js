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
    told.textContent = codes.trim() === "none" ? "No codes." : rest.join(";").trim();
    field.dispatchEvent(new Event("input", { bubbles: true }));
  } catch (error) {
    told.textContent = error.message || "The adapter does not answer.";
  }
});
