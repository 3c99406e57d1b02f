// A long list is narrowed to what holds the words typed above it: rows, terms, or the choices of a select. Ten entries or fewer need no help.
(() => {
  const FEW = 10;
  const holds = (entry, words) => words.every((word) => entry.textContent.toLowerCase().includes(word));
  const kept = (entry) => entry.matches("option") && (entry.selected || entry.value === "");
  function narrow(field) {
    const box = field.closest("[data-narrows]"), entries = [...document.querySelectorAll(box.dataset.narrows)];
    const lists = new Map();
    for (const entry of entries) lists.set(entry.parentElement, (lists.get(entry.parentElement) || 0) + 1);
    box.hidden = entries.length <= FEW || (entries[0].matches("option") && Math.max(...lists.values()) <= FEW);
    const words = box.hidden ? [] : field.value.toLowerCase().split(/\s+/).filter(Boolean);
    let left = 0;
    for (const entry of entries) {
      const shown = !words.length || kept(entry) || holds(entry, words);
      entry.hidden = !shown;
      if (shown && !kept(entry)) left += 1;
    }
    for (const part of document.querySelectorAll("[data-narrowed-part]")) part.hidden = !part.querySelector(box.dataset.narrows + ":not([hidden])");
    box.querySelector("[role=status]").textContent = words.length ? (left ? `${left} of ${entries.length}` : "none holds these words") : "";
  }
  const all = () => document.querySelectorAll("[data-narrows] input").forEach(narrow);
  document.addEventListener("input", (event) => { if (event.target.closest?.("[data-narrows]")) narrow(event.target); });
  document.addEventListener("keydown", (event) => {
    if (!event.target.closest?.("[data-narrows]")) return;
    if (event.key === "Enter") event.preventDefault(); // it is no field of a form
    if (event.key === "Escape" && event.target.value) { event.target.value = ""; narrow(event.target); }
  });
  document.addEventListener("DOMContentLoaded", all);
  document.addEventListener("htmx:after:swap", all);
})();
