// Nothing typed is lost: every field marked data-draft is kept in this browser until the server has it.
(() => {
  const key = (input) => "draft:" + location.pathname + ":" + input.dataset.draft;
  const banner = () => document.querySelector("[data-offline]");
  function mark(input, on) {
    input.dataset.pending = on ? "1" : "0";
    const form = input.closest("form");
    let note = form?.querySelector("[data-unkept]");
    if (!note && on && form?.matches("[data-field]")) {
      note = Object.assign(document.createElement("span"), { className: "unkept", textContent: "typed, not kept yet" });
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
  const away = () => "away:" + location.pathname;
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
  // Signed out while typing: the page stays as it is, and says where to sign in again.
  function signedOut(ctx) {
    const notice = document.querySelector("[data-signed-out]");
    notice.querySelector("a").href = notice.querySelector("a").getAttribute("href").split("?")[0] + "?next=" + encodeURIComponent(location.pathname + location.search);
    notice.hidden = false;
    takeAlong();
    for (const input of inputsOf(ctx.sourceElement)) { localStorage.setItem(key(input), input.value); mark(input, true); }
  }
  document.addEventListener("htmx:before:swap", (event) => {
    const response = event.detail.ctx.response;
    if (response.status === 401 || response.raw?.redirected && response.raw.url.includes("/sign-in")) event.preventDefault();
  });
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
  document.addEventListener("htmx:after:swap", restore);
  document.addEventListener("htmx:error", (event) => {
    banner().hidden = false;
    for (const input of inputsOf(event.detail.ctx?.sourceElement)) { localStorage.setItem(key(input), input.value); mark(input, true); }
  });
  async function resend() {
    for (const form of document.querySelectorAll("form[data-field], form[data-reading]")) {
      if ([...form.querySelectorAll("[data-draft]")].some((input) => input.dataset.pending === "1" && input !== document.activeElement && form.matches("[data-field]"))) {
        form.requestSubmit();
      }
    }
    banner().hidden = true;
  }
  // Forms that leave the page: kept field by field until the next page shows that they went through.
  const formKey = (field) => "form:" + location.pathname + ":" + field.name;
  const kept = (form) => [...form.elements].filter((field) => field.name && !["hidden", "password", "file"].includes(field.type));
  function restoreForms() {
    const left = sessionStorage.getItem("form-sent");
    if (document.querySelector("[data-sign-in]")) return; // not an answer to what was sent: it waits until the person is back
    if (left && left !== location.pathname) {
      for (const name of Object.keys(localStorage)) if (name.startsWith("form:" + left + ":")) localStorage.removeItem(name);
    }
    sessionStorage.removeItem("form-sent");
    for (const form of document.querySelectorAll("form[data-keep]")) {
      if (form.dataset.keep === "answered") continue; // the server gave back what was typed
      for (const field of kept(form)) {
        const draft = localStorage.getItem(formKey(field));
        if (draft !== null) { field.value = draft; field.dispatchEvent(new Event("change", { bubbles: true })); }
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
  window.addEventListener("online", resend);
  window.addEventListener("offline", () => { banner().hidden = false; });
  document.addEventListener("DOMContentLoaded", () => { restore(); restoreForms(); bringBack(); if (!navigator.onLine) banner().hidden = false; });
})();
