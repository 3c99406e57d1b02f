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
