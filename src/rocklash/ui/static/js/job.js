// At the bench: one step at a time, in large type. What is ticked without a line is held back here, and sent once, in its order, when the line is back.
(() => {
  const clock = (seconds, show) => {
    const end = Date.now() + 1000 * seconds;
    const beat = setInterval(() => {
      const left = Math.max(Math.round((end - Date.now()) / 1000), 0);
      show(Math.floor(left / 60) + ":" + String(left % 60).padStart(2, "0") + (left ? "" : ", time"));
      if (left) return;
      clearInterval(beat);
      say("Time is up");
      navigator.vibrate?.([300, 200, 300]);
    }, 250);
    return beat;
  };
  function say(words) {
    if (!window.speechSynthesis) return;
    speechSynthesis.cancel();
    speechSynthesis.speak(new SpeechSynthesisUtterance(words));
  }
  document.addEventListener("click", ({ target }) => {
    const button = target.closest?.("[data-timer]");
    if (button && !button.closest("[data-bench]")) clock(Number(button.dataset.timer), (words) => { button.textContent = words; });
  });

  function bench() {
    const page = document.querySelector("[data-bench]"), told = document.getElementById("bench-units");
    if (!page || !told) return;
    const may = page.dataset.may === "yes";
    const units = JSON.parse(told.textContent);
    const part = (name) => page.querySelector("[data-" + name + "]");
    const store = "ticks:" + page.dataset.tick;
    const held = () => JSON.parse(localStorage.getItem(store) || "[]");
    const keep = (list) => { if (list.length) localStorage.setItem(store, JSON.stringify(list)); else localStorage.removeItem(store); };
    const same = (one, two) => one.key === two.key && one.place === two.place;
    const csrf = () => JSON.parse(document.body.getAttribute("hx-headers:inherited"))["X-CSRFToken"];
    const ticked = []; // in this sitting, for undo: units with where they stood
    let at = 0, beat = 0;
    // what was ticked before the page was loaded again and is not sent yet is not asked twice
    for (const one of held()) { const place = units.findIndex((unit) => same(unit, one)); if (place >= 0) ticked.push([units.splice(place, 1)[0], place]); }
    at = Math.max(units.findIndex((unit) => unit.asked), 0);

    function show() {
      const list = held(), unit = units[at];
      part("held").hidden = !list.length;
      part("held").textContent = list.length + (list.length === 1 ? " tick" : " ticks") + " held back until the line is back: " + list.map((one) => one.time + " " + one.act.toLowerCase() + (one.place ? ", " + one.place : "")).join(" · ");
      part("count").textContent = units.length + " left";
      part("do").disabled = !may || !unit;
      if (!unit) { part("act").textContent = "Nothing is left to do."; for (const name of ["place", "of", "done", "why", "tool", "slip", "next"]) part(name).textContent = ""; part("read").hidden = true; part("cautions").replaceChildren(); return; }
      part("place").textContent = unit.place || "Step " + unit.number;
      part("of").textContent = unit.of;
      part("act").textContent = unit.act;
      part("done").textContent = unit.done;
      part("why").textContent = unit.why;
      part("tool").textContent = [unit.tool, unit.torque].filter(Boolean).join(". ");
      part("with").hidden = !part("tool").textContent;
      part("slip").textContent = unit.slip;
      part("slips").hidden = !unit.slip;
      part("cautions").replaceChildren(...unit.cautions.map((words) => Object.assign(document.createElement("p"), { className: "caution", textContent: words })));
      const next = units[at + 1];
      part("next").textContent = next ? "then: " + (same({ key: next.key, place: "" }, { key: unit.key, place: "" }) ? next.place : next.act) : "";
      part("read").hidden = !may || !unit.reading;
      part("reading").textContent = unit.reading;
      part("clock").hidden = !unit.timer;
      part("left").textContent = "";
      clearInterval(beat);
    }
    function refuse(words, grave) {
      part("refused").textContent = words;
      part("refused").hidden = !words;
      part("reason").hidden = !grave;
      if (grave) document.getElementById("bench-reason").focus();
    }
    let sending = false;
    async function send() {
      if (sending) return;
      sending = true;
      try {
        for (let list = held(); list.length; list = held()) {
          const one = list[0];
          const body = new URLSearchParams({ place: one.place, once: one.once, reason: one.reason || "", sure: one.sure || "", said: one.said || "", act: one.back ? "untick" : "tick" });
          const answer = await fetch(page.dataset.tick.replace("KEY", one.key), { method: "POST", body, headers: { "X-CSRFToken": csrf(), "HX-Request": "true" } });
          if (answer.status === 401 || answer.status === 403 && !answer.headers.get("content-type")?.includes("json")) { refuse("You are signed out, or may not change this job. Your ticks stay here.", false); break; }
          if (answer.status >= 500) break;
          keep(held().slice(1));
          const found = answer.headers.get("content-type")?.includes("json") ? await answer.json() : { sentence: "This job is not there any more." };
          if (answer.status >= 400) {
            // not done: it stands where it stood, with the reason why
            const place = ticked.findIndex(([unit]) => same(unit, one));
            if (place >= 0) { const [unit, stood] = ticked.splice(place, 1)[0]; units.splice(Math.min(stood, units.length), 0, unit); at = units.indexOf(unit); }
            show();
            refuse(found.sentence, true);
            return;
          }
        }
      } catch { /* no line: what is held stays held */ } finally { sending = false; }
      show();
    }
    function tick() {
      const unit = units[at];
      if (!may || !unit) return;
      const reason = document.getElementById("bench-reason").value.trim(), said = document.getElementById("bench-said").value.trim();
      refuse("", false);
      document.getElementById("bench-reason").value = document.getElementById("bench-said").value = "";
      ticked.push([unit, at]);
      units.splice(at, 1);
      if (at >= units.length) at = Math.max(units.length - 1, 0);
      keep([...held(), { key: unit.key, place: unit.place, act: unit.act, said, reason, sure: reason ? "yes" : "", once: crypto.getRandomValues(new Uint32Array(2)).join("-"), time: new Date().toTimeString().slice(0, 5) }]);
      show();
      send();
    }
    function undo() {
      const last = ticked.pop();
      if (!last || !may) return;
      units.splice(Math.min(last[1], units.length), 0, last[0]);
      at = units.indexOf(last[0]);
      const list = held(), place = list.findIndex((one) => same(one, last[0]));
      if (place >= 0 && !sending) keep(list.filter((_, number) => number !== place));
      else keep([...list, { key: last[0].key, place: last[0].place, act: "undone", back: true, once: crypto.getRandomValues(new Uint32Array(2)).join("-"), time: new Date().toTimeString().slice(0, 5) }]);
      refuse("", false);
      show();
      send();
    }
    const walk = (steps) => { at = Math.min(Math.max(at + steps, 0), Math.max(units.length - 1, 0)); refuse("", false); show(); };
    const read = () => { const unit = units[at]; if (unit) say([unit.place, unit.act, unit.done, ...unit.cautions].filter(Boolean).join(". ")); };
    part("do").addEventListener("click", tick);
    part("undo").addEventListener("click", undo);
    part("back").addEventListener("click", () => walk(-1));
    part("skip").addEventListener("click", () => walk(1));
    part("speak").addEventListener("click", read);
    part("clock").addEventListener("click", () => { clearInterval(beat); beat = clock(units[at].timer, (words) => { part("left").textContent = words; }); });
    let lock = null, wanted = false;
    const awake = async () => { try { lock = wanted ? await navigator.wakeLock?.request("screen") : null; } catch { lock = null; } };
    part("awake").addEventListener("click", async () => {
      wanted = !wanted;
      if (!wanted) await lock?.release();
      await awake();
      part("awake").setAttribute("aria-pressed", String(wanted));
      part("awake").textContent = wanted ? (lock ? "The screen stays on" : "This browser cannot keep it on") : "Keep the screen on";
    });
    document.addEventListener("visibilitychange", () => { if (document.visibilityState === "visible" && wanted) awake(); });
    for (const form of ["reason", "read"]) part(form).addEventListener("submit", (event) => { event.preventDefault(); tick(); });
    document.addEventListener("keydown", (event) => {
      if (event.target.matches("input, a, button:not([data-do]), select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
      const act = { " ": tick, z: undo, n: read, ArrowLeft: () => walk(-1), ArrowRight: () => walk(1) }[event.key];
      if (act) { event.preventDefault(); act(); }
    });
    window.addEventListener("online", send);
    setInterval(() => { if (held().length && navigator.onLine) send(); }, 5000);
    show();
    send();
  }
  document.addEventListener("DOMContentLoaded", bench);
})();
