// The order of answers: none paints over a newer one, none disturbs a typing hand.
(() => {
  // What a page fetches by itself (the motion, the plan) may have been rendered before what the person did meanwhile: then it is
  // dropped, and fetched again once the person's own requests are through.
  // Two fields sent one right after the other may be answered in either order, and neither answer need know of the other: then the
  // bench is fetched once more when both are through, unless one was refused: that sentence stays.
  let deeds = 0, underWay = 0, missed = false, posts = 0, crossed = false, refused = false, stale = false, shown = "";
  const begun = new WeakMap();
  const own = (source) => source?.getAttribute?.("hx-trigger")?.startsWith("load") && source.getAttribute("hx-target") === "#bench";
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
    if (window.refusalStands() || (stale && atTyping())) return;
    const link = missed && document.querySelector('#bench a[hx-trigger^="load"][hx-target="#bench"]');
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
    if (!begun.has(ctx) || ctx.response.raw?.headers.get("HX-Retarget")) return; // how far it is, in its own line, disturbs nobody
    if (begun.get(ctx) === deeds && !atTyping() && !window.refusalStands()) return;
    event.preventDefault();
    if (window.refusalStands()) {
      if (ctx.sourceElement.isConnected) Object.assign(ctx.sourceElement, { textContent: "computed: show it", href: location.pathname + location.search });
      ctx.sourceElement.closest(".pending")?.classList.add("ready");
      return;
    }
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
})();
