// Takes the engine apart and puts it together on the plan, step by step.

(() => {
  function board() {
    const row = document.querySelector("[data-frames]");
    if (!row) return null;
    if (!row.parsed) row.parsed = JSON.parse(row.dataset.frames);
    return { row, frames: row.parsed, slider: document.getElementById("scrub") };
  }

  function fold(frames, count) {
    const away = new Set();
    const stages = new Map();
    for (const frame of frames.slice(0, count)) {
      if (frame.away) away.add(frame.away);
      if (frame.back) away.delete(frame.back);
      if (frame.hole && frame.stage) stages.set(frame.hole, frame.stage);
    }
    return { away, stages };
  }

  function words(frame, count, total) {
    const minute = Math.round(frame.minutes);
    const slots = { count, total, minute, text: frame.text, hand: frame.in_hand };
    return translated("Step {count} of {total}, minute {minute}: {text}. In hand: {hand}.", slots);
  }

  function show(count) {
    const b = board();
    if (!b) return;
    const { away, stages } = fold(b.frames, count);
    const frame = b.frames[count - 1];
    const svg = document.querySelector(".board .engine-plan");
    svg.classList.toggle("scrubbing", count > 0);
    svg.querySelectorAll(".part").forEach((el) => {
      el.classList.toggle("gone", away.has(el.dataset.part));
      el.classList.toggle("in-hand", Boolean(frame) && frame.part === el.dataset.part);
    });
    svg.querySelectorAll(".callout").forEach((el) => el.classList.toggle("gone", away.has(el.dataset.part)));
    svg.querySelectorAll("[data-stage-of]").forEach((el) => {
      el.textContent = stages.get(el.dataset.stageOf) || "";
    });
    svg.querySelectorAll("a[data-key]").forEach((el) => {
      el.classList.toggle("at-work", Boolean(frame) && frame.hole === el.dataset.key);
    });
    mark(b, count);
    const said = frame ? words(frame, count, b.frames.length) : translated("Before the first step.");
    document.getElementById("moment").textContent = said;
    b.slider.value = String(count);
    b.slider.setAttribute("aria-valuetext", said);
  }

  function mark(b, count) {
    const cursor = b.row.querySelector(".cursor");
    const step = b.row.querySelector(`[data-step="${count - 1}"] rect`);
    const x = step ? step.x.baseVal.value + step.width.baseVal.value : 0;
    cursor.setAttribute("transform", `translate(${x} 0)`);
    b.row.classList.toggle("scrubbing", count > 0);
  }

  document.addEventListener("input", (event) => {
    if (event.target.id === "scrub") show(Number(event.target.value));
  });
  document.addEventListener("click", (event) => {
    const step = event.target.closest("[data-step]");
    if (step) show(Number(step.dataset.step) + 1);
  });
  document.addEventListener("keydown", (event) => {
    const by = { "[": -1, "]": 1 }[event.key];
    const b = by && board();
    if (!b || event.target.closest("input:not([type=range]), textarea, select")) return;
    const wanted = Number(b.slider.value) + by;
    show(Math.max(0, Math.min(b.frames.length, wanted)));
  });
})();
