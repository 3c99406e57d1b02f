// Words in a drawing keep their size: --k is how many of its units make a pixel, told to its style whenever its width changes.
(() => {
  const told = (svg) => {
    const wide = svg.getBoundingClientRect().width, units = svg.viewBox.baseVal?.width;
    if (wide && units) svg.style.setProperty("--k", (units / wide).toFixed(3));
  };
  const watch = new ResizeObserver((seen) => seen.forEach(({ target }) => told(target)));
  function all() {
    for (const svg of document.querySelectorAll("svg[viewBox]:not(.term)")) if (svg.querySelector("text")) { told(svg); watch.observe(svg); }
  }
  document.addEventListener("DOMContentLoaded", all);
  document.addEventListener("htmx:after:swap", all);
  addEventListener("beforeprint", () => { for (const svg of document.querySelectorAll("svg[viewBox]")) svg.style.removeProperty("--k"); });
  addEventListener("afterprint", all);
})();
// A table without a name of its own is called after the heading above it.
(() => {
  function name() {
    const heads = [...document.querySelectorAll("main h2, main h3")];
    for (const table of document.querySelectorAll("main table:not([aria-label])")) {
      if (table.caption) continue;
      const above = heads.filter((head) => head.compareDocumentPosition(table) & Node.DOCUMENT_POSITION_FOLLOWING).pop();
      if (above) table.setAttribute("aria-label", [...above.childNodes].filter((node) => node.nodeType === 3 || !node.matches?.("button")).map((node) => node.textContent).join(" ").trim().replace(/\s+/g, " "));
    }
  }
  document.addEventListener("DOMContentLoaded", name);
  document.addEventListener("htmx:after:swap", name);
})();
