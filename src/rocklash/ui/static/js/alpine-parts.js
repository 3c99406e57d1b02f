// Parts for Alpine's CSP build: no expressions in the page, only names.
document.addEventListener("alpine:init", () => {
  const told = (id) => JSON.parse(document.getElementById(id).textContent);
  const radios = (name) => [...document.querySelectorAll(`input[type=radio][name=${name}]`)];
  window.Alpine.data("choice", () => ({
    init() {
      document.getElementById("id_use").addEventListener("change", () => this.limits());
      this.fit(this.$root.dataset.gear || "dohc");
      this.limits();
    },
    pick(event) { this.fit(event.target.value); },
    // A plausible engine fills kind and figures; what was typed into the name stays.
    begin(event) {
      const values = told("fills")[event.target.value] || {};
      if (values.gear) { this.set("gear", values.gear); this.fit(values.gear); }
      for (const [name, value] of Object.entries(values)) if (name !== "gear") this.set(name, value);
      this.limits();
    },
    set(name, value) {
      const choices = radios(name);
      if (choices.length) for (const radio of choices) radio.checked = radio.value === value;
      else document.getElementById("id_" + name).value = value;
    },
    // Only what exists with the gear is offered; the usual one comes first.
    fit(gear) {
      const [followers, adjusters] = told("goes-with")[gear];
      for (const [name, fitting] of [["follower", followers], ["adjuster", adjusters]]) {
        for (const radio of radios(name)) radio.disabled = radio.closest("label").hidden = !fitting.includes(radio.value);
        if (!radios(name).some((radio) => radio.checked && !radio.disabled)) this.set(name, fitting[0]);
      }
      const valves = document.getElementById("id_valves_per_side");
      for (const option of valves.options) option.disabled = gear === "side_valve" && option.value !== "1";
      if (gear === "side_valve") valves.value = "1";
    },
    limits() {
      const use = document.getElementById("id_use").value;
      for (const line of document.querySelectorAll("[data-use]")) line.hidden = line.dataset.use !== use;
    },
  }));
});
