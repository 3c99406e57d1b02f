/* Runs laid over one another to look into: a line a run, readings under the cursor, zoom by dragging or by keys. */
(() => {
  const own = document.currentScript.dataset;
  const DASH = [[6, 4], [], [2, 3], [10, 4, 2, 4]];
  let ready = null;

  const load = () => {
    ready ||= new Promise((done, failed) => {
      const sheet = Object.assign(document.createElement("link"), { rel: "stylesheet", href: own.plotStyle });
      const script = Object.assign(document.createElement("script"), { src: own.plotScript, onload: done, onerror: failed });
      document.head.append(sheet, script);
    });
    return ready;
  };
  const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

  const build = (place, told) => {
    place.replaceChildren();
    const strokes = ["--ink2", "--blue", "--brasst", "--holds", "--short", "--ink", "--blue2", "--unproven"].map(colour);
    const axis = (label) => ({ label, stroke: colour("--ink2"), grid: { stroke: colour("--grid") }, ticks: { stroke: colour("--hair") }, font: "12px Barlow SC", labelFont: "12px Barlow SC" });
    const plot = new uPlot({
      width: place.clientWidth, height: 320, scales: { x: { time: false } }, axes: [axis("rpm"), axis(told.unit)],
      series: [{ label: "rpm" }, ...told.names.map((label, n) => ({ label, stroke: strokes[n % 8], width: 2, dash: DASH[n % 4], spanGaps: true, points: { show: false } }))],
    }, told.data, place);
    place.plot = plot;
    place.whole = [told.data[0][0], told.data[0].at(-1)];
    place.dataset.frames = "0";
  };

  const move = (place, steps) => {
    const { plot } = place;
    const x = plot.data[0];
    const at = Math.max(0, Math.min(x.length - 1, (plot.cursor.idx ?? 0) + steps));
    plot.setCursor({ left: plot.valToPos(x[at], "x"), top: 20 });
  };
  const zoom = (place, times) => {
    const { plot } = place;
    const { min, max } = plot.scales.x;
    const middle = plot.cursor.idx == null ? (min + max) / 2 : plot.data[0][plot.cursor.idx];
    const half = ((max - min) / 2) * times;
    plot.setScale("x", { min: Math.max(place.whole[0], middle - half), max: Math.min(place.whole[1], middle + half) });
  };
  const KEYS = {
    ArrowLeft: (place) => move(place, -1), ArrowRight: (place) => move(place, 1), "+": (place) => zoom(place, 0.6), "-": (place) => zoom(place, 1.6),
    0: (place) => place.plot.setScale("x", { min: place.whole[0], max: place.whole[1] }),
  };

  document.addEventListener("keydown", (event) => {
    const place = event.target.closest?.("[data-runplot]");
    if (!place?.plot || !KEYS[event.key]) return;
    event.preventDefault();
    KEYS[event.key](place);
  });

  const start = () => document.querySelectorAll("[data-runplot]").forEach(async (place) => {
    const held = document.getElementById(place.dataset.runplot);
    // a bench that is swapped in takes the drawing with it
    if (!held || (place.held === held.textContent && place.querySelector("canvas"))) return;
    place.held = held.textContent;
    await load();
    build(place, JSON.parse(held.textContent));
  });
  document.addEventListener("click", async (event) => {
    const button = event.target.closest("[data-samples]");
    if (!button) return;
    button.disabled = true;
    const answer = await fetch(button.dataset.samples);
    button.disabled = false;
    if (!answer.ok) return;
    await load();
    build(document.querySelector("[data-runplot]"), await answer.json());
    button.textContent = "Every sample is shown";
  });
  let waits = 0;
  window.addEventListener("resize", () => {
    cancelAnimationFrame(waits);
    waits = requestAnimationFrame(() => document.querySelectorAll("[data-runplot]").forEach((place) => place.plot?.setSize({ width: place.clientWidth, height: 320 })));
  });
  document.addEventListener("DOMContentLoaded", start);
  document.addEventListener("htmx:after:swap", start);
})();
