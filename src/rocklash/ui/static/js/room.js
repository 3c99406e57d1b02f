// Room: piston and valves of the section follow the brass line; dragging across the section turns the crank.
(() => {
  const data = () => { const held = document.getElementById("room-data"); return held ? JSON.parse(held.textContent) : null; };
  let held = null, from = null;
  window.addEventListener("crank", (event) => {
    const section = document.querySelector("svg.roomsection");
    held = data();
    if (!section || !held) return;
    const place = Math.min(Math.max(Math.round((event.detail - held.low) / held.step), 0), held.travel.length - 1);
    section.querySelector("[data-piston]").setAttribute("transform", `translate(0 ${held.travel[place] * held.scale})`);
    for (const valve of section.querySelectorAll("[data-valve-side]")) {
      const side = held.sides[valve.dataset.valveSide], lift = side.lift[place];
      valve.setAttribute("transform", `translate(${lift * valve.dataset.x} ${lift * valve.dataset.y})`);
      for (const said of document.querySelectorAll(`[data-now="${valve.dataset.valveSide}"]`)) said.textContent = side.said[place];
      for (const said of document.querySelectorAll(`[data-lift="${valve.dataset.valveSide}"]`)) said.textContent = side.lifted[place];
    }
    for (const said of document.querySelectorAll("[data-crank]")) said.textContent = held.named[place];
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
