// Small parts of the pages that open and shut. Registered here because the policy allows no inline script.
document.addEventListener("alpine:init", () => {
  window.Alpine.data("choice", () => ({
    gear: "dohc",
    init() { this.gear = this.$root.dataset.gear || "dohc"; },
    pick(event) {
      this.gear = event.target.value;
      const [followers, adjusters] = JSON.parse(document.getElementById("goes-with").textContent)[this.gear];
      this.offer("id_follower", followers);
      this.offer("id_adjuster", adjusters);
      if (this.gear !== "dohc") document.getElementById("id_valves_per_side").value = "1";
    },
    offer(id, fitting) {
      const select = document.getElementById(id);
      for (const option of select.options) option.disabled = !fitting.includes(option.value);
      select.value = fitting[0]; // the usual one comes first
    },
    get isDohc() { return this.gear === "dohc"; },
    get isOhc() { return this.gear === "ohc"; },
    get isPushRod() { return this.gear === "push_rod"; },
    get isSideValve() { return this.gear === "side_valve"; },
  }));
});
