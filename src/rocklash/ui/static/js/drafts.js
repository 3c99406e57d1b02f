// Nothing typed is lost: every field marked data-draft is kept in this browser until the server has it.
(() => {
  // What was refused stands with its sentence and all that was typed beside it until the person sends again or leaves.
  const refusalStands = window.refusalStands = () => document.querySelector("#bench [data-refused]") !== null;
  // Whoever shares this browser sees nothing of it: every key begins with the person.
  const person = () => document.body?.dataset.person || "0";
  const key = (input) => "draft:" + person() + ":" + location.pathname + ":" + input.dataset.draft;
  const banner = () => document.querySelector("[data-offline]");
  function mark(input, on) {
    input.dataset.pending = on ? "1" : "0";
    const form = input.closest("form");
    let note = form?.querySelector("[data-unkept]");
    if (!note && on && form?.matches("[data-field]")) {
      note = Object.assign(document.createElement("span"), { className: "unkept", textContent: "not saved yet" });
      note.dataset.unkept = "";
      form.append(note);
    }
    if (note) note.hidden = !on;
  }
  function keep(input) {
    if (input.value === input.defaultValue) { localStorage.removeItem(key(input)); mark(input, false); }
    else { localStorage.setItem(key(input), input.value); mark(input, true); }
  }
  // An answer to another field may sweep the text from under a typing hand. It is put back, and sent when the hand leaves: the
  // browser does not count what a script set as a change.
  const putBack = new WeakSet();
  function restore() {
    for (const input of document.querySelectorAll("[data-draft]")) {
      const draft = localStorage.getItem(key(input));
      if (draft === null) continue;
      if (draft === input.defaultValue) { localStorage.removeItem(key(input)); mark(input, false); continue; }
      if (input.value !== draft) {
        input.value = draft;
        if (input === document.activeElement) putBack.add(input);
      }
      mark(input, true);
    }
  }
  document.addEventListener("input", (event) => { if (event.target.matches("[data-draft]")) keep(event.target); });
  document.addEventListener("change", (event) => putBack.delete(event.target));
  document.addEventListener("focusout", ({ target }) => {
    if (putBack.delete(target) && target.dataset.pending === "1" && target.form?.matches("[data-field]")) target.form.requestSubmit();
  });
  const inputsOf = (source) => [...(source?.closest?.("form")?.querySelectorAll("[data-draft]") || [])];
  // Fields that are no drafts of their own: what stands in them unsent goes along over the sign-in page and comes back once.
  const away = () => "away:" + person() + ":" + location.pathname;
  const loose = (field) => field.id && !("draft" in field.dataset) && !field.closest("form[data-keep]") && !field.readOnly;
  const ticked = (field) => field.type === "checkbox" || field.type === "radio";
  const changed = (field) => ticked(field) ? field.checked !== field.defaultChecked : field.options ? [...field.options].some((option) => option.selected !== option.defaultSelected) : field.value !== field.defaultValue;
  // A choice that sends itself on change has no other button: brought back unsent it would look kept.
  const sends = (field) => field.options && field.closest("form[hx-trigger]");
  function takeAlong() {
    const fields = [...document.querySelectorAll("main input, main textarea, main select")].filter((field) => loose(field) && !sends(field) && !["hidden", "password", "file"].includes(field.type) && changed(field));
    if (fields.length) localStorage.setItem(away(), JSON.stringify(Object.fromEntries(fields.map((field) => [field.id, ticked(field) ? field.checked : field.value]))));
  }
  function bringBack() {
    const sent = sessionStorage.getItem("away-sent");
    sessionStorage.removeItem("away-sent");
    if (document.querySelector("[data-sign-in]")) return; // what was sent came here instead: it waits
    if (sent) localStorage.removeItem(sent); // it was answered: by the page it was meant for, or by its refusal
    const taken = localStorage.getItem(away());
    if (taken === null) return;
    localStorage.removeItem(away());
    for (const [id, text] of Object.entries(JSON.parse(taken))) {
      const field = document.getElementById(id);
      if (!field || !loose(field)) continue;
      if (ticked(field)) field.checked = text; else field.value = text;
    }
  }
  // Signed out while typing: the page stays as it is, the door opens over it, and what waited is sent once the same person is in again.
  const waiting = [];
  function signedOut(ctx) {
    const notice = document.querySelector("[data-signed-out]");
    notice.querySelector("a").href = notice.querySelector("a").getAttribute("href").split("?")[0] + "?next=" + encodeURIComponent(location.pathname + location.search);
    notice.hidden = false;
    takeAlong();
    for (const input of inputsOf(ctx.sourceElement)) { localStorage.setItem(key(input), input.value); mark(input, true); }
    const form = ctx.sourceElement?.closest?.("form[hx-post]");
    if (form && !waiting.includes(form)) waiting.push(form);
    openDoor();
  }
  async function openDoor() {
    const door = document.querySelector("[data-door]");
    if (!door || door.open) return;
    const answer = await fetch(door.dataset.door, { headers: { "X-In-Place": "yes" } });
    if (!answer.ok || door.open) return;
    door.innerHTML = await answer.text();
    door.showModal();
    (door.querySelector("[name=username]").value ? door.querySelector("[name=password]") : door.querySelector("[name=username]")).focus();
  }
  const cookie = (name) => document.cookie.split("; ").find((each) => each.startsWith(name + "="))?.slice(name.length + 1) || "";
  function freshToken() { // signing in gives a new token: the old one in every form is no longer good
    const token = cookie("csrftoken");
    if (!token) return;
    for (const field of document.querySelectorAll("[name=csrfmiddlewaretoken]")) field.value = token;
    document.body.setAttribute("hx-headers:inherited", JSON.stringify({ "X-CSRFToken": token }));
  }
  document.addEventListener("submit", async (event) => {
    const form = event.target.closest("[data-sign-in-here]");
    if (!form) return;
    event.preventDefault();
    event.stopPropagation();
    const answer = await fetch(form.action, { method: "POST", body: new URLSearchParams(new FormData(form)), headers: { "X-In-Place": "yes" } });
    const door = form.closest("[data-door]");
    if (answer.status !== 204) {
      if (answer.headers.get("content-type")?.includes("html")) { door.innerHTML = await answer.text(); door.querySelector("[name=password]")?.focus(); }
      return;
    }
    if (answer.headers.get("X-Person") !== person()) { location.reload(); return; } // somebody else: nothing of what was typed is sent for them
    door.close();
    door.replaceChildren();
    document.querySelector("[data-signed-out]").hidden = true;
    freshToken();
    for (const each of waiting.splice(0)) if (each.isConnected) each.requestSubmit();
    resend();
  }, true);
  document.addEventListener("htmx:before:swap", (event) => {
    const response = event.detail.ctx.response;
    if (response.status === 401 || response.raw?.redirected && response.raw.url.includes("/sign-in")) event.preventDefault();
  });
  // Enter in a changed field is a change and a submit in one breath: the change is sent, the submit would send it again.
  const changedAt = new WeakMap();
  const both = 'form[hx-trigger="change, submit"]';
  document.addEventListener("change", (event) => { const form = event.target.closest?.(both); if (form) changedAt.set(form, event.timeStamp); }, true);
  document.addEventListener("submit", (event) => {
    if (!event.target.matches(both) || event.timeStamp - (changedAt.get(event.target) ?? -Infinity) > 100) return;
    event.preventDefault();
    event.stopImmediatePropagation();
  }, true);
  const sent = new WeakMap(); // by request: what was sent of each field, whatever other answers do to the page meanwhile
  document.addEventListener("htmx:before:request", (event) => {
    sent.set(event.detail.ctx, inputsOf(event.detail.ctx.sourceElement).map((input) => [input.dataset.draft, key(input), input.value]));
  });
  // Sent and kept: the server answered, whatever it said of the text; refused text stands in the field it came from.
  document.addEventListener("htmx:after:request", (event) => {
    const ctx = event.detail.ctx;
    banner().hidden = true;
    if (ctx.response.status === 401) signedOut(ctx);
    // a redirect is never "kept": its page answers for itself, not for what was sent
    if (ctx.response.status >= 400 || ctx.response.raw?.redirected) return;
    for (const [name, stored, text] of sent.get(ctx) || []) {
      if (localStorage.getItem(stored) !== text && localStorage.getItem(stored) !== null) continue; // typed on meanwhile: that is not kept yet
      localStorage.removeItem(stored);
      for (const input of document.querySelectorAll("[data-draft]")) {
        if (input.dataset.draft === name && input.value === text) mark(input, false);
      }
    }
  });
  // Saved when: beside the field, by the clock of the person, until the page is left.
  const savedAt = new Map();
  const fieldOf = (form) => form?.querySelector?.("[data-draft]")?.dataset.draft;
  const clockNow = () => {
    const zone = document.body.dataset.zone || undefined;
    return new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: zone }).format(new Date());
  };
  function showSaved() {
    for (const [name, words] of savedAt) {
      const form = document.querySelector(`form[data-field] [data-draft="${CSS.escape(name)}"]`)?.form;
      if (!form) continue;
      const note = form.querySelector(".savednote") || (form.querySelector(".side") || form).appendChild(Object.assign(document.createElement("span"), { className: "savednote" }));
      if (note.textContent !== words) note.textContent = words;
    }
    const strip = document.querySelector("[data-saved]"), last = [...savedAt.values()].pop();
    if (strip && last) strip.textContent = last;
  }
  function tellSaved(form, words) {
    const name = fieldOf(form);
    if (!name) return;
    savedAt.delete(name);
    if (words) savedAt.set(name, words);
    showSaved();
    if (!words) form.querySelector(".savednote")?.remove();
  }
  document.addEventListener("htmx:before:request", (event) => { if (event.detail.ctx.sourceElement?.matches?.("form[data-field]")) tellSaved(event.detail.ctx.sourceElement, "saving"); });
  document.addEventListener("htmx:after:request", (event) => {
    const { sourceElement, response } = event.detail.ctx;
    if (sourceElement?.matches?.("form[data-field]")) tellSaved(sourceElement, response.status < 400 && !response.raw?.redirected ? `saved ${clockNow()}` : "");
  });
  document.addEventListener("htmx:error", (event) => tellSaved(event.detail.ctx?.sourceElement, ""));
  document.addEventListener("htmx:after:swap", showSaved);
  document.addEventListener("htmx:after:swap", restore);
  document.addEventListener("htmx:error", (event) => {
    banner().hidden = false;
    const form = event.detail.ctx?.sourceElement?.closest?.("form[hx-post]");
    if (form && !form.querySelector("[type=file]") && form.matches("[data-field], [data-reading]")) enqueue(form);
    for (const input of inputsOf(event.detail.ctx?.sourceElement)) { localStorage.setItem(key(input), input.value); mark(input, true); }
  });
  // Without a connection: what was sent waits by person and by field, and goes out by itself, in order, each once.
  const queueKey = () => "queue:" + person();
  const queued = () => JSON.parse(localStorage.getItem(queueKey()) || "[]");
  function tellQueue(rows) {
    localStorage.setItem(queueKey(), JSON.stringify(rows));
    const words = banner()?.querySelector("[data-waits]");
    if (words) words.textContent = rows.length ? (rows.length === 1 ? "One entry waits." : rows.length + " entries wait.") : "";
  }
  function enqueue(form) {
    const action = form.getAttribute("hx-post") || form.action, fields = [...new FormData(form)].filter(([, value]) => typeof value === "string");
    const name = location.pathname + " " + (form.id || form.querySelector("[data-draft]")?.dataset.draft || action + (form.querySelector("[name=act]")?.value || ""));
    const drafts = [...form.querySelectorAll("[data-draft]")].map((input) => [key(input), input.value]);
    tellQueue([...queued().filter((row) => row.name !== name), { name, action, fields, drafts, at: Date.now() }]);
  }
  let sending = false;
  async function flush() {
    if (sending || !queued().length || !navigator.onLine) return "";
    sending = true;
    let some = "";
    try {
      for (let row = queued()[0]; row; row = queued()[0]) {
        const body = new URLSearchParams(row.fields.filter(([name]) => name !== "csrfmiddlewaretoken"));
        const answer = await fetch(row.action, { method: "POST", body, headers: { "HX-Request": "true", "X-CSRFToken": cookie("csrftoken") || row.fields.find(([name]) => name === "csrfmiddlewaretoken")?.[1] || "" } });
        if (answer.status === 401) { openDoor(); break; }
        if (answer.status >= 500) break;
        some = row.action;
        tellQueue(queued().filter((each) => each.name !== row.name || each.at !== row.at));
        if (answer.status < 400) for (const [stored, text] of row.drafts) if (localStorage.getItem(stored) === text) localStorage.removeItem(stored);
      }
    } catch { /* the line is gone again: what is left waits on */ } finally { sending = false; }
    if (!queued().length && banner()) banner().hidden = true;
    return some;
  }
  async function resend() {
    const some = await flush();
    for (const form of document.querySelectorAll("form[data-field], form[data-reading]")) {
      if ([...form.querySelectorAll("[data-draft]")].some((input) => input.dataset.pending === "1" && localStorage.getItem(key(input)) !== null && input !== document.activeElement && form.matches("[data-field]"))) {
        form.requestSubmit();
      }
    }
    if (some && document.getElementById("bench")) htmx.ajax("GET", some, { target: "#bench", swap: "innerMorph" }); // the page as the answer would have shown it
    if (!queued().length) banner().hidden = true;
  }
  // Forms that leave the page: kept field by field until the next page shows that they went through.
  const formKey = (field) => "form:" + person() + ":" + location.pathname + ":" + field.name;
  const kept = (form) => [...form.elements].filter((field) => field.name && !["hidden", "password", "file"].includes(field.type));
  function restoreForms() {
    const left = sessionStorage.getItem("form-sent");
    if (document.querySelector("[data-sign-in]")) return; // not an answer to what was sent: it waits until the person is back
    if (left && left !== location.pathname) {
      for (const name of Object.keys(localStorage)) if (name.startsWith("form:" + person() + ":" + left + ":")) localStorage.removeItem(name);
    }
    sessionStorage.removeItem("form-sent");
    for (const form of document.querySelectorAll("form[data-keep]")) {
      if (form.dataset.keep === "answered") continue; // the server gave back what was typed
      for (const field of kept(form)) {
        const draft = localStorage.getItem(formKey(field));
        if (draft === null || (field.type === "radio" && field.value !== draft)) continue;
        if (field.type === "radio") field.checked = true; else field.value = draft;
        field.dispatchEvent(new Event("change", { bubbles: true }));
      }
    }
  }
  document.addEventListener("input", (event) => { if (event.target.closest("form[data-keep]") && kept(event.target.form).includes(event.target)) localStorage.setItem(formKey(event.target), event.target.value); });
  document.addEventListener("submit", (event) => { if (event.target.matches("form[data-keep]")) sessionStorage.setItem("form-sent", location.pathname); });
  document.addEventListener("submit", (event) => {
    if (event.target.method !== "post" || event.target.hasAttribute("hx-post") || event.target.matches("form[data-keep]")) return;
    takeAlong();
    sessionStorage.setItem("away-sent", away());
  });
  // Every other text of a form that is sent: kept by its field until the server has it, or the person takes it out.
  const looseKey = (field) => "loose:" + person() + ":" + location.pathname + ":" + field.id;
  const texts = (field) => field.matches?.("main form[method=post] input, main form[method=post] textarea") && loose(field) && !["hidden", "password", "file", "checkbox", "radio", "submit", "search"].includes(field.type) && !/passw|code|secret/.test(field.name);
  document.addEventListener("input", ({ target }) => {
    if (!texts(target)) return;
    if (target.value === target.defaultValue) localStorage.removeItem(looseKey(target)); else localStorage.setItem(looseKey(target), target.value);
  });
  function restoreLoose() {
    for (const field of document.querySelectorAll("main form[method=post] input[id], main form[method=post] textarea[id]")) {
      if (!texts(field)) continue;
      const draft = localStorage.getItem(looseKey(field));
      if (draft === null) continue;
      if (draft === field.defaultValue) { if (!refusalStands()) localStorage.removeItem(looseKey(field)); }
      else if (field.value === field.defaultValue) field.value = draft;
    }
  }
  const looseOf = (form) => [...(form?.elements || [])].filter(texts).map(looseKey);
  const looseSent = new WeakMap();
  document.addEventListener("htmx:before:request", (event) => looseSent.set(event.detail.ctx, looseOf(event.detail.ctx.sourceElement?.closest?.("form"))));
  document.addEventListener("htmx:after:request", (event) => {
    const { response } = event.detail.ctx;
    if (response.status < 400 && !response.raw?.redirected) for (const name of looseSent.get(event.detail.ctx) || []) localStorage.removeItem(name);
  });
  document.addEventListener("submit", ({ target }) => {
    if (target.method === "post" && !target.hasAttribute("hx-post")) sessionStorage.setItem("loose-sent", JSON.stringify(looseOf(target)));
  });
  function clearLoose() { // a page came back for what was sent: it was taken, or was refused and is not lost if the page is left
    const names = JSON.parse(sessionStorage.getItem("loose-sent") || "[]");
    if (document.querySelector("[data-sign-in]")) return;
    sessionStorage.removeItem("loose-sent");
    if (!refusalStands()) for (const name of names) localStorage.removeItem(name);
  }
  document.addEventListener("htmx:after:swap", restoreLoose);
  window.addEventListener("online", resend);
  window.addEventListener("offline", () => { banner().hidden = false; });
  document.addEventListener("DOMContentLoaded", () => { clearLoose(); restore(); restoreForms(); bringBack(); restoreLoose(); tellQueue(queued()); if (!navigator.onLine) banner().hidden = false; else if (queued().length) resend(); });
})();
