// Room: piston and valves of the section follow the brass line; dragging across the section turns the crank.
(() => {
  let from = null, held = null, there = null;
  function data() {
    const now = document.getElementById("room-data")?.textContent;
    if (!now || now === there) return now ? held : null;
    there = now;
    held = JSON.parse(now);
    held.travel = window.unpacked(held.travel);
    for (const side of Object.values(held.sides)) for (const row of ["lift", "gap"]) if (side[row]) side[row] = window.unpacked(side[row]);
    return held;
  }
  const figure = (value, places) => value.toFixed(places).replace(/^-(?=[0.]+$)/, "").replace("-", "\u2212").replace(/^(\u2212?)0\./, held.unit === "in" ? "$1." : "$10.");
  const said = (side, read, place) => side.gap
    ? `${figure(side.gap[place] - side.spread, held.coarse)}…${figure(side.gap[place] + side.spread, held.coarse)}`
    : `${figure(read, held.places)} ${held.unit}`;
  window.addEventListener("crank", (event) => {
    const section = document.querySelector("svg.roomsection");
    if (!section || !data()) return;
    const { crank, reads } = event.detail, place = Math.min(Math.max(Math.round((crank - held.low) / held.step), 0), held.travel.length - 1);
    section.querySelector("[data-piston]").setAttribute("transform", `translate(0 ${held.travel[place] * held.scale})`);
    for (const valve of section.querySelectorAll("[data-valve-side]")) {
      const name = valve.dataset.valveSide, side = held.sides[name], lift = side.lift[place], moved = lift * held.mm;
      valve.setAttribute("transform", `translate(${moved * valve.dataset.x} ${moved * valve.dataset.y})`);
      for (const cell of document.querySelectorAll(`[data-now="${name}"]`)) cell.textContent = said(side, reads[name], place);
      for (const cell of document.querySelectorAll(`[data-lift="${name}"]`)) cell.textContent = figure(lift, held.places);
    }
    const degrees = held.low + place * held.step, [before, zero, after] = held.words;
    for (const cell of document.querySelectorAll("[data-crank]")) cell.textContent = degrees ? `${Math.abs(degrees)}° ${degrees < 0 ? before : after} ${zero}` : zero;
  });
  const slider = () => document.querySelector("[data-turn]");
  document.addEventListener("pointerdown", (event) => {
    if (!event.target.closest?.("svg.roomsection") || !slider()) return;
    from = { x: event.clientX, value: Number(slider().value) };
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!from) return;
    slider().value = from.value + Math.round((event.clientX - from.x) / 4);
    slider().dispatchEvent(new Event("input", { bubbles: true }));
  });
  document.addEventListener("pointerup", () => { from = null; });
})();
