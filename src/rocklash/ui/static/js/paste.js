// A column or a table from a spreadsheet pasted into a grid of fields: shown first, then put in from the field at hand, rightwards and down, and sent.
(() => {
  const grid = (input) => input.closest?.("table[data-paste]");
  const cellsOf = (table) => [...table.tBodies].flatMap((body) => [...body.rows]).map((row) => [...row.querySelectorAll("input:not([type=hidden]):not([readonly])")]);
  const table = (text) => text.replace(/\r\n?/g, "\n").replace(/\n+$/, "").split("\n").map((line) => line.split("\t").map((cell) => cell.trim()));
  function plan(input, rows) {
    const cells = cellsOf(grid(input)).filter((row) => row.length);
    const from = cells.findIndex((row) => row.includes(input)), column = cells[from].indexOf(input);
    const put = [], over = [];
    rows.forEach((row, down) => row.forEach((text, right) => {
      const target = cells[from + down]?.[column + right];
      if (target) put.push({ target, text }); else if (text) over.push(text);
    }));
    return { put, over };
  }
  const nameOf = (input) => document.querySelector(`label[for="${CSS.escape(input.id)}"]`)?.textContent.trim().replace(/\s+/g, " ") || input.name;
  function ask(found, done) {
    const door = document.createElement("dialog");
    door.className = "pasting";
    door.setAttribute("aria-label", "What was pasted");
    const head = Object.assign(document.createElement("h2"), { textContent: `${found.put.length} pasted: look before they are put in` });
    const list = document.createElement("table");
    list.className = "t";
    list.innerHTML = "<thead><tr><th scope=col>field</th><th scope=col>now</th><th scope=col>pasted</th></tr></thead><tbody></tbody>";
    for (const { target, text } of found.put) {
      const row = list.tBodies[0].insertRow();
      const name = document.createElement("th");
      name.scope = "row";
      name.textContent = nameOf(target);
      row.append(name);
      row.insertCell().textContent = target.value || "\u2013";
      row.insertCell().textContent = text || "\u2013";
    }
    const scroll = Object.assign(document.createElement("div"), { className: "scroll", tabIndex: 0 });
    scroll.append(list);
    door.append(head, scroll);
    if (found.over.length) door.append(Object.assign(document.createElement("p"), { className: "wrong", textContent: `${found.over.length} too many for this table are left out: ${found.over.slice(0, 5).join(", ")}` }));
    const yes = Object.assign(document.createElement("button"), { type: "button", className: "btn-main", textContent: "Put them in and save" });
    const no = Object.assign(document.createElement("button"), { type: "button", className: "btn-side", textContent: "Leave it" });
    yes.addEventListener("click", () => { door.close(); done(); });
    no.addEventListener("click", () => door.close());
    door.append(yes, " ", no);
    door.addEventListener("close", () => door.remove());
    document.body.append(door);
    door.showModal();
    yes.focus();
  }
  // One after another: each answer brings the page with what the next form must have seen.
  async function send(put) {
    const forms = new Map();
    for (const { target, text } of put) {
      const id = target.form?.id || target.id;
      forms.set(id, [...(forms.get(id) || []), { id: target.id, text }]);
    }
    for (const fields of forms.values()) {
      const inputs = fields.map((field) => [document.getElementById(field.id), field.text]);
      if (inputs.some(([input]) => !input)) continue;
      const changed = inputs.filter(([input, text]) => input.value !== text);
      if (!changed.length) continue;
      for (const [input, text] of changed) input.value = text;
      const answered = new Promise((resolve) => {
        const end = () => { removeEventListener("htmx:after:swap", end, true); resolve(); };
        addEventListener("htmx:after:swap", end, true);
        setTimeout(end, 8000);
      });
      changed[0][0].form.requestSubmit();
      await answered;
      const wrong = document.querySelector("#station .wrong[role=alert]");
      if (!wrong) for (const field of fields) { const now = document.getElementById(field.id); if (now) now.value = now.defaultValue; } // as it was understood
      if (wrong) { wrong.scrollIntoView({ block: "center" }); return; } // the rest waits until this one is put right
    }
  }
  document.addEventListener("paste", (event) => {
    const text = event.clipboardData?.getData("text/plain") || "";
    if (!event.target.matches?.("input") || !grid(event.target) || !/[\t\n]/.test(text.trim())) return;
    event.preventDefault();
    const found = plan(event.target, table(text));
    if (found.put.length) ask(found, () => send(found.put));
  });
})();
