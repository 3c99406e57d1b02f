// The Lash station by keyboard and by thumb: walk the head with arrows, Enter goes on, blades set both fields.
(() => {
  const station = () => document.querySelector("[data-lash]");
  const shown = (element) => element && element.getClientRects().length > 0;
  const first = () => document.querySelector("[data-first]");
  function focusFirst() { const input = first(); if (input) { input.focus({ preventScroll: true }); input.select(); } }
  const valves = () => [...document.querySelectorAll("[data-valve]")].filter(shown);
  function walk(key) {
    const all = valves(), now = all.find((v) => v.getAttribute("aria-current") === "true") || all[0];
    if (!now) return;
    let row = Number(now.dataset.row), column = Number(now.dataset.column);
    if (key === "ArrowLeft") column -= 1;
    if (key === "ArrowRight") column += 1;
    if (key === "ArrowUp") row = 0;
    if (key === "ArrowDown") row = 1;
    const next = all.find((v) => Number(v.dataset.row) === row && Number(v.dataset.column) === column);
    if (next && next !== now) next.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
  }
  document.addEventListener("keydown", (event) => {
    if (!station() || event.ctrlKey || event.metaKey || event.altKey) return;
    const input = event.target.closest?.("form[data-reading] input");
    const typing = input && input.value !== input.defaultValue;
    const free = !event.target.matches("input, select, textarea") || (input && !typing);
    if (event.key.startsWith("Arrow") && free) { event.preventDefault(); walk(event.key); return; }
    if (event.key.toLowerCase() === "z" && (!event.target.matches("input, select, textarea") || input)) {
      event.preventDefault();
      document.querySelector("form[data-takeback]")?.requestSubmit(document.querySelector("form[data-takeback] button"));
      return;
    }
    if (event.key === "Enter" && input) {
      // Enter goes to the next empty field of the valve; from the last one it records.
      const fields = [...input.form.querySelectorAll("input[data-draft]:not([data-spare])")];
      const next = fields.slice(fields.indexOf(input) + 1).find((field) => field.value.trim() === "");
      if (next) { event.preventDefault(); next.focus(); next.select(); }
    }
  });
  document.addEventListener("click", (event) => {
    const key = event.target.closest("[data-blade]");
    if (!key) return;
    const keys = [...document.querySelectorAll("[data-blade]")];
    const set = (name, value) => { const input = document.querySelector(`form[data-reading] input[name=${name}]`); if (input) { input.value = value; input.dispatchEvent(new Event("input", { bubbles: true })); } };
    const next = keys[keys.indexOf(key) + 1];
    set("goes", key.dataset.blade);
    if (next) set("stops", next.dataset.blade);
    keys.forEach((each) => each.classList.remove("goes", "stops"));
    key.classList.add("goes");
    next?.classList.add("stops");
  });
  // Once the last valve is read, Enter goes on to the next step instead of recording the first valve again.
  let reading = null;
  document.addEventListener("htmx:before:request", (event) => {
    const source = event.detail.ctx.sourceElement;
    if (source?.getAttribute?.("hx-trigger") === "load") return; // what the page fetches by itself is nobody's step
    reading = source?.dataset?.reading || null;
  });
  document.addEventListener("htmx:after:swap", (event) => {
    if (!station()) return;
    // What the page fetched by itself (the motion, the plan) leaves the hand where it is.
    if (event.detail?.ctx?.sourceElement?.getAttribute?.("hx-trigger") === "load" && document.activeElement !== document.body) return;
    // Choosing how it is done keeps its focus; everything else goes on with the valve at hand.
    if (document.activeElement?.closest?.(".manner, .limitfields, .rail, .strip, .pins, [data-next]")) return;
    // A hand that is typing already types on: a late answer to something else selects nothing under it.
    const hand = document.activeElement;
    if (hand?.matches?.("form[data-reading] [data-draft]") && hand.value !== hand.defaultValue) return;
    const next = document.querySelector("[data-next]"), before = reading;
    reading = null;
    if (next && before) { next.focus(); return; }
    const wrong = document.querySelector("form[data-reading] [aria-invalid]");
    if (wrong) { wrong.focus(); wrong.select(); } else if (first()) focusFirst(); else document.getElementById("bench").focus();
  });
  document.addEventListener("DOMContentLoaded", () => { if (station() && window.innerWidth > 700) focusFirst(); });
})();
