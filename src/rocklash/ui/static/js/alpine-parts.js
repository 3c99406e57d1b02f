// Small parts of the pages that open and shut. Registered here because the policy allows no inline script.
document.addEventListener("alpine:init", () => {
  window.Alpine.data("choice", () => ({
    gear: "dohc",
    init() { this.gear = this.$root.dataset.gear || "dohc"; },
    pick(event) { this.gear = event.target.value; },
    get isDohc() { return this.gear === "dohc"; },
    get isOhc() { return this.gear === "ohc"; },
    get isPushRod() { return this.gear === "push_rod"; },
    get isSideValve() { return this.gear === "side_valve"; },
  }));
});
