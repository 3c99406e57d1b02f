// The bench: folding the ladder, opening the rail on a phone, keeping fields in step after a swap.
(() => {
  const folded = () => localStorage.getItem("ladder:" + (document.getElementById("station")?.getAttribute("aria-label") || ""));
  function applyFold() {
    const ladder = document.querySelector("[data-ladder]");
    if (!ladder) return;
    const kept = folded();
    if (kept) ladder.classList.toggle("is-folded", kept === "folded");
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
  });
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
  // What a page fetches by itself (the motion, the plan) may have been rendered before what the person did meanwhile: then it is
  // dropped, and fetched again once the person's own requests are through.
  // Two fields sent one right after the other may be answered in either order, and neither answer need know of the other: then the
  // bench is fetched once more when both are through, unless one was refused: that sentence stays.
  let deeds = 0, underWay = 0, missed = false, posts = 0, crossed = false, refused = false, stale = false, shown = "";
  const begun = new WeakMap();
  const own = (source) => source?.getAttribute?.("hx-trigger") === "load" && source.getAttribute("hx-target") === "#bench";
  const isPost = (source) => Boolean(source?.hasAttribute?.("hx-post"));
  const again = document.createElement("a");
  again.setAttribute("hx-trigger", "load");
  again.setAttribute("hx-target", "#bench");
  again.hidden = true;
  // A hand that is just typing is not disturbed either: what it sends will fetch the rest.
  // What was sent and kept is no typing any more, though the field does not know it until the next swap.
  const atTyping = () => [...(document.activeElement?.form?.querySelectorAll("[data-draft]") || [])].some((input) => input.value !== input.defaultValue && input.dataset.pending !== "0");
  function fetchMissed() {
    if (underWay > 0) return;
    if (stale && atTyping()) return;
    const link = missed && document.querySelector('#bench a[hx-trigger="load"][hx-target="#bench"]');
    missed = false;
    if (stale) {
      stale = false;
      document.body.append(again);
      htmx.ajax("GET", shown || location.pathname + location.search, { source: again, target: "#bench", swap: "innerMorph" });
    } else if (link) htmx.ajax("GET", link.getAttribute("hx-get"), { source: link, target: "#bench", swap: "innerMorph" });
  }
  document.addEventListener("htmx:before:request", (event) => {
    const ctx = event.detail.ctx, source = ctx.sourceElement;
    if (own(source)) { begun.set(ctx, deeds); return; }
    deeds += 1;
    underWay += 1;
    if (isPost(source)) {
      if (posts > 0) crossed = true;
      posts += 1;
      shown = "";
    } else if (source?.getAttribute?.("hx-target") === "#bench") shown = source.getAttribute("hx-get") || "";
  });
  document.addEventListener("htmx:after:request", (event) => {
    if (isPost(event.detail.ctx.sourceElement) && event.detail.ctx.response.status >= 400) refused = true;
  });
  document.addEventListener("htmx:before:swap", (event) => {
    const ctx = event.detail.ctx;
    if (isPost(ctx.sourceElement) && crossed && ctx.response.status < 400 && atTyping()) {
      event.preventDefault(); // what it would show is fetched again anyway, once the hand is done
      return;
    }
    if (!begun.has(ctx) || (begun.get(ctx) === deeds && !atTyping())) return;
    event.preventDefault();
    if (ctx.sourceElement === again) stale = true; else missed = true;
    if (underWay === 0 && !atTyping()) setTimeout(fetchMissed);
  });
  document.addEventListener("htmx:finally:request", (event) => {
    const ctx = event.detail.ctx;
    if (begun.has(ctx)) return;
    underWay = Math.max(underWay - 1, 0);
    if (isPost(ctx.sourceElement)) posts = Math.max(posts - 1, 0);
    if (posts === 0) {
      if (crossed && !refused) stale = true;
      crossed = refused = false;
    }
    fetchMissed();
  });
  document.addEventListener("focusout", () => setTimeout(() => { if (!atTyping()) fetchMissed(); }));
  document.addEventListener("htmx:after:swap", inStep);
  document.addEventListener("DOMContentLoaded", applyFold);
})();
