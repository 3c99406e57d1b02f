// The bench: folding the ladder, opening the rail on a phone, keeping fields in step after a swap.
(() => {
  const folded = () => localStorage.getItem("ladder:" + (document.getElementById("station")?.getAttribute("aria-label") || ""));
  const low = matchMedia("(max-height: 899px)");
  const drawsItself = () => [...document.querySelectorAll("#station svg[role=img], #station canvas, #station .plot")].some((drawing) => drawing.getBoundingClientRect().width > 240);
  function applyFold() {
    const ladder = document.querySelector("[data-ladder]");
    if (!ladder) return;
    const kept = folded();
    if (kept) ladder.classList.toggle("is-folded", kept === "folded");
    else if (low.matches && drawsItself()) ladder.classList.add("is-folded"); // on a low screen the station's own drawing comes first
    const shut = ladder.classList.contains("is-folded");
    const button = ladder.querySelector("[data-fold]");
    button.textContent = shut ? "L opens" : "L folds";
    button.setAttribute("aria-expanded", String(!shut));
  }
  function toggleFold() {
    const ladder = document.querySelector("[data-ladder]");
    if (!ladder) return;
    const shut = ladder.classList.toggle("is-folded");
    localStorage.setItem("ladder:" + document.getElementById("station").getAttribute("aria-label"), shut ? "folded" : "open");
    applyFold();
  }
  // One ladder is sent, the one for this screen: the server is told which, and asked again when the screen turned out another.
  const narrow = matchMedia("(max-width: 62.5em)");
  function tellWidth() {
    document.cookie = "narrow=" + (narrow.matches ? "yes" : "no") + "; path=/; max-age=31536000; samesite=lax";
    const ladder = document.querySelector("#bench #ladder");
    if (ladder && ladder.hasAttribute("data-narrow") !== narrow.matches && !document.querySelector("[data-pending='1']") && !window.refusalStands()) {
      htmx.ajax("GET", location.href, { target: "#bench", swap: "innerMorph" });
    }
  }
  narrow.addEventListener("change", tellWidth);
  document.addEventListener("DOMContentLoaded", tellWidth);
  // What a figure was before, under its field; pressed again it goes away. A swap takes it with it: then it is fetched again.
  const pasts = new Set();
  const nameOf = ({ elements: { holder, key } }) => (holder && key ? holder.value + "/" + key.value + "/" : "");
  async function showPast(form) {
    const where = document.getElementById("bench").dataset.history.replace(/x\/y\/$/, nameOf(form));
    const answer = await fetch(where, { headers: { "HX-Request": "true" } });
    if (!answer.ok || !pasts.has(nameOf(form))) return;
    form.querySelector(".past-list")?.remove();
    form.insertAdjacentHTML("beforeend", await answer.text());
  }
  function turnPast(form) {
    if (pasts.delete(nameOf(form))) form.querySelector(".past-list")?.remove();
    else { pasts.add(nameOf(form)); showPast(form); }
  }
  document.addEventListener("htmx:after:swap", () => {
    if (!pasts.size) return;
    for (const form of document.querySelectorAll("form.field[data-field]")) {
      if (pasts.has(nameOf(form)) && !form.querySelector(".past-list")) showPast(form);
    }
  });
  // Figures of a part are fetched when they are asked for; what is open is told with every request, so that an answer holds it again.
  const opened = () => [...document.querySelectorAll("details[data-lazy][open]")].map((part) => part.id.replace("figures-", "")).join(" ");
  document.addEventListener("htmx:config:request", (event) => { if (opened()) event.detail.ctx.request.headers["X-Opened"] = opened(); });
  document.addEventListener("toggle", (event) => {
    const part = event.target;
    if (!part.matches?.("details[data-lazy]") || !part.open || part.querySelector("form")) return;
    htmx.ajax("GET", part.dataset.lazy, { source: part, target: "#bench", swap: "innerMorph" });
  }, true);
  document.addEventListener("DOMContentLoaded", () => {
    const again = document.querySelector("[data-ask-again]");
    if (again) setTimeout(() => location.replace(again.href), 700);
  });
  let railOpen = false; // a swap that arrives while the menu is open must not shut it
  const typing = (target) => target.matches("input:not([type=checkbox]):not([type=radio]), select, textarea");
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-fold]")) toggleFold();
    const menu = event.target.closest("[data-rail-toggle]");
    if (menu) {
      const open = document.getElementById("rail").classList.toggle("is-open");
      menu.setAttribute("aria-expanded", String(open));
      railOpen = open;
    }
    if (event.target.closest("[data-print]")) window.print();
    const put = event.target.closest("[data-put]"), into = put?.closest("form[data-field]")?.elements.text;
    if (into) { into.value = put.dataset.put; into.dispatchEvent(new Event("input", { bubbles: true })); into.form.requestSubmit(); }
    const past = event.target.closest("[data-past]");
    if (past) turnPast(past.form);
  });
  // Single letters and digits: off where the person said so; ? and / and the digits of the doors are heard on every page.
  const single = (event) => event.key.length === 1 && event.key !== " " && !event.ctrlKey && !event.metaKey && !event.altKey && !typing(event.target);
  addEventListener("keydown", (event) => { if (single(event) && document.body.dataset.keys === "off") event.stopImmediatePropagation(); }, true);
  document.addEventListener("keydown", (event) => {
    if (!single(event)) return;
    if (event.key === "?") location.assign(document.body.dataset.keysPage);
    const search = event.key === "/" && document.querySelector("[role=search] input[type=search]");
    if (search) { event.preventDefault(); search.focus(); }
    if (/^[1-6]$/.test(event.key)) document.querySelectorAll("a.gate")[Number(event.key) - 1]?.click();
  });
  document.cookie = "zone=" + encodeURIComponent(Intl.DateTimeFormat().resolvedOptions().timeZone || "") + "; path=/; max-age=31536000; samesite=lax";
  document.addEventListener("keydown", (event) => {
    if (event.key.toLowerCase() === "l" && !typing(event.target) && !event.ctrlKey && !event.metaKey && !event.altKey) toggleFold();
  });
  // A morph leaves typed text in a field whose kept value did not change, and a select at its old choice: set them right.
  function inStep() {
    for (const input of document.querySelectorAll("[data-draft]")) {
      if (input.dataset.pending !== "1" && input.value !== input.defaultValue) input.value = input.defaultValue;
    }
    for (const select of document.querySelectorAll(".field select")) {
      const kept = [...select.options].find((option) => option.defaultSelected);
      if (kept && select !== document.activeElement) select.value = kept.value;
    }
    document.getElementById("rail")?.classList.toggle("is-open", railOpen);
    applyFold();
  }
  // Switching units or light reloads the page: stay where the eye was.
  document.addEventListener("submit", (event) => { if (event.target.matches(".switch")) sessionStorage.setItem("scroll", String(window.scrollY)); });
  document.addEventListener("DOMContentLoaded", () => {
    const place = sessionStorage.getItem("scroll");
    if (place) { window.scrollTo(0, Number(place)); sessionStorage.removeItem("scroll"); }
  });
  document.addEventListener("htmx:after:swap", inStep);
  document.addEventListener("DOMContentLoaded", applyFold);
})();
