// On a phone the rows of a list stand as small cards: each cell says the head of its column.

const LISTS = "main table.sheet:not(.cells, .wells, .tray-table, .hole-history)";

function nameCells() {
  for (const table of document.querySelectorAll(LISTS)) {
    const heads = [...table.querySelectorAll(":scope > thead th")];
    if (!heads.length || heads.some((head) => head.colSpan > 1)) continue;
    table.classList.add("cards");
    for (const row of table.tBodies[0]?.rows ?? []) nameRow(row, heads);
  }
}

// A cell over several columns says no more than itself, nor does the first, which names its row.
function nameRow(row, heads) {
  if (row.cells.length > heads.length || [...row.cells].some((cell) => cell.colSpan > 1)) return;
  [...row.cells].forEach((cell, at) => {
    if (at && cell.textContent.trim()) cell.dataset.under = heads[at].textContent.trim();
  });
}

document.addEventListener("DOMContentLoaded", nameCells);
document.addEventListener("htmx:afterSwap", nameCells);
