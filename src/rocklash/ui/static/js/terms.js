// A term is explained where it first stands on a page: a small button behind it opens its line. And each station's strip, until it is put away.
(() => {
  let terms = null;
  const places = "#station .readout .top > span:first-child, #station thead th, #station h2, .ladder .legend";
  const said = (term) => term.words.map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")).join("|");
  function explain() {
    if (!terms) return;
    const room = [...document.querySelectorAll(places)].filter((place) => !place.querySelector("a, button, input") && !place.closest("[data-no-terms], .infigures"));
    for (const term of terms) {
      if (document.querySelector(`[data-term="${term.key}"]`)) continue;
      const place = room.find((each) => !each.querySelector("[data-term]") && new RegExp(`(^|[^\\w-])(${said(term)})(?![\\w-])`, "i").test(each.textContent));
      if (!place) continue;
      const button = Object.assign(document.createElement("button"), { type: "button", className: "what noprint", textContent: "?" });
      button.dataset.term = term.key;
      button.setAttribute("aria-label", `What is ${term.name}?`);
      button.setAttribute("aria-expanded", "false");
      place.append(button);
    }
  }
  const shut = () => { document.querySelector(".termline")?.remove(); for (const button of document.querySelectorAll("[data-term][aria-expanded=true]")) button.setAttribute("aria-expanded", "false"); };
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-term]"), open = button?.getAttribute("aria-expanded") === "true";
    if (!event.target.closest?.(".termline")) shut();
    if (!button || open) return;
    const term = terms.find((each) => each.key === button.dataset.term), line = document.createElement("div");
    line.className = "termline noprint";
    line.setAttribute("role", "status");
    const more = Object.assign(document.createElement("a"), { href: document.body.dataset.glossary + "#" + term.key, textContent: "with its drawing" });
    line.append(Object.assign(document.createElement("b"), { textContent: term.name + ": " }), term.line + " ", more);
    document.body.append(line);
    const at = button.getBoundingClientRect();
    line.style.left = `${Math.max(8, Math.min(at.left + scrollX, innerWidth - line.offsetWidth - 8))}px`;
    line.style.top = `${at.bottom + scrollY + 6}px`;
    button.setAttribute("aria-expanded", "true");
  });
  document.addEventListener("keydown", (event) => { if (event.key === "Escape") shut(); });
  function strip() {
    for (const how of document.querySelectorAll("[data-how]")) how.hidden = localStorage.getItem("how:" + how.dataset.how) === "away" || (innerWidth < 701 && sessionStorage.getItem("how-asked") !== "yes");
  }
  document.addEventListener("click", (event) => {
    const how = event.target.closest?.("[data-how-away]")?.closest("[data-how]");
    if (how) { localStorage.setItem("how:" + how.dataset.how, "away"); how.hidden = true; }
    if (event.target.closest?.("[data-how-back]")) { sessionStorage.setItem("how-asked", "yes"); scrollTo(0, 0); for (const name of Object.keys(localStorage)) if (name.startsWith("how:")) localStorage.removeItem(name); strip(); }
  });
  async function begin() {
    strip();
    const answer = await fetch(document.body.dataset.glossary + "terms.json");
    if (answer.ok) { terms = await answer.json(); explain(); }
  }
  document.addEventListener("DOMContentLoaded", begin);
  document.addEventListener("htmx:after:swap", () => { strip(); explain(); });
})();
