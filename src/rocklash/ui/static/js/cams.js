// Linked plots: one angle moves the brass line through all plots and turns lobe and follower (Cams, Springs & masses).
(() => {
  // rows come as what one stands for and how the slope bends from value to value (ui/drawings/readout.py)
  const unpacked = (row) => { const [one, ...bends] = row.split(" ").map(Number); let value = 0, slope = 0; return bends.map((bend) => { slope += bend; value += slope; return value / one; }); };
  let read = null, from = null; // one reading of each page's data, not one a move
  function data() {
    const there = document.getElementById("cam-data")?.textContent;
    if (!there || there === from) return there ? read : null;
    from = there;
    read = JSON.parse(there);
    read.series = read.series?.map((row) => Object.fromEntries(Object.entries(row).map(([letter, values]) => [letter, unpacked(values)])));
    if (read.turn) Object.assign(read.turn, { angle: unpacked(read.turn.angle), move: unpacked(read.turn.move), touch: read.turn.touch.map(unpacked) });
    return read;
  }
  window.unpacked = unpacked;
  const shown = (angle) => `${angle < 0 ? "\u2212" : ""}${Math.abs(angle)}°`;
  let kept = null;
  function near(values, wanted) {
    let best = 0;
    values.forEach((value, n) => { if (Math.abs(value - wanted) < Math.abs(values[best] - wanted)) best = n; });
    return best;
  }
  function turnSection(held, crank) {
    const turn = held.turn, svg = document.querySelector("svg.lobe");
    if (!turn || !svg) return;
    const cam = (crank - held.centre) / (held.per || 2), inside = cam >= turn.angle[0] && cam <= turn.angle[turn.angle.length - 1];
    const n = inside ? near(turn.angle, cam) : (cam < turn.angle[0] ? 0 : turn.angle.length - 1);
    svg.querySelector("[data-lobe]").setAttribute("transform", `rotate(${turn.sense * cam} ${turn.centre[0]} ${turn.centre[1]})`);
    svg.querySelector("[data-slide]")?.setAttribute("transform", `translate(0 ${turn.move[n]})`);
    svg.querySelector("[data-swing]")?.setAttribute("transform", `rotate(${turn.move[n]} ${turn.pivot?.[0]} ${turn.pivot?.[1]})`);
    const touch = svg.querySelector("[data-touch]");
    touch.setAttribute("cx", turn.touch[0][n]);
    touch.setAttribute("cy", turn.touch[1][n]);
  }
  function show(crank) {
    const held = data(), plots = document.querySelector("svg.plots");
    if (!held || !plots) return;
    const across = held.left + (crank - held.low) / (held.high - held.low) * (held.right - held.left);
    const foot = plots.viewBox.baseVal.height;
    plots.querySelector("[data-line]")?.setAttribute("d", `M${across} 18V${foot - 20}`);
    plots.querySelector("[data-tag]")?.setAttribute("transform", `translate(${Math.min(Math.max(across, held.left + 20), held.right - 20)} ${foot - 18})`);
    for (const tick of plots.querySelectorAll(".xt")) tick.setAttribute("visibility", Math.abs(Number(tick.getAttribute("x")) - across) < 42 ? "hidden" : "visible");
    for (const label of plots.querySelectorAll(".pl")) label.setAttribute("visibility", Math.abs(Number(label.getAttribute("x")) - across) < 70 ? "hidden" : "visible"); // the line reads it out
    const angle = plots.querySelector("[data-angle]");
    if (angle) angle.textContent = shown(crank);
    const place = Math.round((crank - held.low) / held.step), right = across > (held.left + held.right) / 2;
    held.series.forEach((row, plot) => {
      const group = plots.querySelector(`[data-reads="${plot}"]`), labels = [];
      for (const [letter, values] of Object.entries(row)) {
        const dot = group?.querySelector(`[data-dot="${letter}"]`), text = group?.querySelector(`[data-text="${letter}"]`);
        if (!dot || values[place] === undefined) continue;
        const up = held.scales[plot][0] + held.scales[plot][1] * values[place];
        dot.setAttribute("cx", across);
        dot.setAttribute("cy", up);
        text.setAttribute("x", right ? across - 8 : across + 8);
        text.classList.toggle("end", right);
        text.textContent = `${letter} ${values[place].toFixed(held.places[plot]).replace("-", "\u2212")}`;
        labels.push({ text, at: up + 4 });
      }
      if (!labels.length) return;
      // one below the other in the order of their curves, between the plot's title and its foot
      const size = parseFloat(getComputedStyle(labels[0].text).fontSize), tall = size * 1.15;
      labels.sort((one, other) => one.at - other.at);
      let least = Number(group.dataset.top) + size * 0.9;
      for (const label of labels) { label.at = Math.max(label.at, least); least = label.at + tall; }
      let most = Number(group.dataset.foot) - size * 0.3;
      for (const label of [...labels].reverse()) { label.at = Math.min(label.at, most); most = label.at - tall; }
      for (const { text, at } of labels) text.setAttribute("y", at);
    });
    const valve = document.querySelector("[data-valve]"), coil = document.querySelector("[data-coil]"), lifts = held.series[0].lift;
    if (valve && coil && lifts) {
      const down = Math.max(lifts[place] || 0, 0) * Number(valve.dataset.scale);
      valve.setAttribute("transform", `translate(0 ${down})`);
      const top = Number(coil.dataset.top) + down, step = (Number(coil.dataset.foot) - top) / 8;
      coil.setAttribute("d", Array.from({ length: 9 }, (_, n) => `${n ? "L" : "M"}${n % 2 ? 52 : 20} ${top + n * step}`).join(""));
    }
    for (const bar of document.querySelectorAll("[data-bar]")) {
      const row = held.series.find((each) => bar.dataset.bar in each), value = row?.[bar.dataset.bar][place];
      if (value === undefined) continue;
      const tall = Math.max(Math.min(value / Number(bar.dataset.most), 1.05), 0) * 130;
      bar.querySelector("rect").setAttribute("y", -tall);
      bar.querySelector("rect").setAttribute("height", tall);
      const figure = bar.querySelector("[data-figure]");
      figure.setAttribute("y", -tall - 4);
      figure.textContent = value.toFixed(held.places[1]).replace("-", "\u2212");
    }
    const said = document.getElementById("turn-said");
    if (said) said.textContent = shown(crank);
    turnSection(held, crank);
    const reads = Object.fromEntries(Object.entries(held.series[0]).map(([name, values]) => [name, values[place]]));
    window.dispatchEvent(new CustomEvent("crank", { detail: { crank, reads } }));
  }
  function start() {
    const slider = document.querySelector("[data-turn]"), held = data();
    if (!slider || !held) return;
    slider.min = held.low;
    slider.max = held.high;
    slider.value = kept ?? Math.round(held.centre - 40);
    show(Number(slider.value));
  }
  document.addEventListener("input", (event) => {
    if (event.target.matches("[data-turn]")) { kept = Number(event.target.value); show(kept); }
  });
  document.addEventListener("keydown", (event) => {
    const slider = document.querySelector("[data-turn]");
    if (!slider || event.target.matches("input, select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key !== "ArrowLeft" && event.key !== "ArrowRight") return;
    event.preventDefault();
    slider.value = Number(slider.value) + (event.key === "ArrowRight" ? 1 : -1) * (event.shiftKey ? 10 : 2);
    kept = Number(slider.value);
    show(kept);
  });
  document.addEventListener("htmx:after:swap", start);
  document.addEventListener("DOMContentLoaded", start);
})();
