/* A weld session: its steps are a table in the page, so that it continues without the server.
   Each pressed key is saved on this device and sent until the server has it. */
(() => {
  const root = document.querySelector("[data-run]");
  const source = document.getElementById("run-data");
  if (!root || !source) { return; }
  const addresses = source.dataset;
  const AGAIN_MS = 3000;
  const REFUSED_MS = 20000;
  const LIVE_MS = 250;
  const PURGE_MS = 1500;
  const TWICE_MS = 350;
  // The cached page shows that it is older.
  const FRESH_S = 30;
  const BEGUN_S = 600;
  const data = JSON.parse(source.textContent);
  const replay = window.arcReplay(data);
  const token = root.querySelector('input[name="csrf_token"]') || document.querySelector('input[name="csrf_token"]');
  const place = (name) => root.querySelector("[data-" + name + "]");
  const name = "run:" + data.what + ":" + data.job;
  let pacer = null;
  let trace = null;
  let sending = false;
  let waiting = 0;
  let pressed = -1e9;
  let told = "";
  let off = "";
  let cues = null;
  let lead = null;
  // The start of the count-in in timed mode; whether a power source is read, and sends its gas.
  let counting = null;
  let led = false;
  let gas = false;

  function stored(key, usual) {
    try {
      const found = JSON.parse(window.localStorage.getItem(key));
      return found === null ? usual : found;
    } catch (error) {
      return usual;
    }
  }
  function keep(key, value) {
    try {
      if (value === null) { window.localStorage.removeItem(key); } else { window.localStorage.setItem(key, JSON.stringify(value)); }
    } catch (error) {
      /* Without storage the session is on this page only. */
    }
  }

  function random() {
    const bytes = new Uint8Array(9);
    window.crypto.getRandomValues(bytes);
    return Array.from(bytes, (one) => one.toString(16).padStart(2, "0")).join("");
  }

  let device = stored("device", "");
  if (!device) {
    device = "d-" + random();
    keep("device", device);
  }
  /* Times here follow the clock of this device. A cached page is older than its text. The
     minimum difference to the server clock is the correct one. */
  const said = Date.now() / 1000 - data.now;
  const before = stored("skew", null);
  const fresh = before === null || said - before < FRESH_S;
  const skew = before === null ? said : Math.min(said, before);
  if (fresh) { keep("skew", said); }
  function keepClock(moment) { keep("skew", Date.now() / 1000 - moment); }

  /* The events of this device in a session: those that the server lacks, and those that it has,
     because a cached page knows none of them. */
  const run = { once: data.once, number: data.number, began: data.began + skew, port: data.port, unsent: [] };
  let known = data.acts.map((act) => ({ ...act, at: act.at + skew }));
  const left = stored(name, null);
  if (left && Array.isArray(left.unsent)) {
    const mine = left.once === run.once;
    const begun = !data.number && (left.unsent.length > 0 || !fresh);
    if (mine || begun || !fresh) {
      const ids = new Set(known.map((act) => act.id));
      known = mine ? [...known, ...(left.taken || []).filter((act) => !ids.has(act.id))] : left.taken || [];
      run.began = mine && data.number && fresh ? run.began : left.began;
      run.once = left.once;
      run.number = run.number || left.number;
      run.unsent = left.unsent;
    } else if (left.unsent.length) {
      keep(name + ":other", left);
    }
  }
  const other = stored(name + ":other", null);
  if (other && Array.isArray(other.unsent) && other.unsent.length) { deliver(other); }

  function store() { keep(name, run.unsent.length || known.length ? { once: run.once, number: run.number, began: run.began, unsent: run.unsent, taken: known } : null); }

  function posted(of, acts) {
    const fields = new FormData();
    fields.set("csrf_token", token.value);
    const port = of.number || !lead ? "" : lead.port();
    fields.set("run", JSON.stringify({ what: data.what, job: data.job, once: of.once, device, began: of.began, now: now(), port, acts }));
    return window.fetch(addresses.acts, { method: "POST", body: fields, headers: { Accept: "application/json" } });
  }

  /* Return the message for a refused request. */
  async function getRefusal(response) {
    let message = "";
    try {
      message = (await response.json()).error;
    } catch (error) {
      /* The answer is not from the application. */
    }
    return (message || "The server refused the request (" + response.status + ").") + " Your entries are saved on this device. They are sent again automatically.";
  }

  /* The events of another session of the same subject, started elsewhere at the same time. They
     are sent unchanged. */
  async function deliver(other) {
    try {
      const response = await posted(other, other.unsent);
      if (response.ok) {
        keep(name + ":other", null);
        say("The entries of this device for another run were sent. Both runs are listed under Weld.");
      } else {
        say(await getRefusal(response));
        window.setTimeout(() => deliver(other), REFUSED_MS);
      }
    } catch (error) {
      window.setTimeout(() => deliver(other), AGAIN_MS);
    }
  }

  function play() { return replay(run.began, known, run.unsent); }
  let stands = play();

  function clock(seconds) {
    const whole = Math.max(0, Math.floor(seconds));
    return Math.floor(whole / 60) + ":" + String(whole % 60).padStart(2, "0");
  }
  function now() { return Date.now() / 1000; }
  function put(where, text) { if (where && where.textContent !== text) { where.textContent = text; } }

  function figures(step) {
    const list = place("figures");
    list.replaceChildren(...step.shown.map((one) => {
      const box = document.createElement("div");
      const label = document.createElement("dt");
      const value = document.createElement("dd");
      label.textContent = one.label;
      value.textContent = one.text;
      if (one.was) {
        box.className = "chg";
        const was = document.createElement("small");
        was.textContent = " was " + one.was;
        value.append(was);
      }
      box.append(label, value);
      return box;
    }));
  }

  function keys(step) {
    const shown = [...step.keys].reverse();
    if (stands.back) { shown.unshift({ key: "back", words: "Back one step" }); }
    place("keys").replaceChildren(...shown.map((one) => {
      const form = document.createElement("form");
      const button = document.createElement("button");
      button.type = "button";
      button.className = one.key === "main" ? "at-key at-main" : "at-key";
      button.dataset.key = one.key;
      button.textContent = (one.key === "main" && isCountedIn(step) ? "Start the count-in" : one.words) + (one.key === "main" ? " — any key" : "");
      form.append(button);
      return form;
    }));
  }

  /* In timed mode a key starts the count-in, and the clock the step after it. */
  function isCountedIn(step) { return step.countIn && lead !== null && lead.mode() === "timed"; }

  function show() {
    const { step, done } = stands;
    counting = null;
    root.dataset.phase = step.phase;
    root.dataset.step = step.key;
    place("phases").querySelectorAll("li").forEach((one) => {
      const key = one.dataset.phaseKey;
      one.className = key === step.phase ? "phase-now" : done.has(key) ? "phase-done" : "phase-next";
      if (key === step.phase) { one.setAttribute("aria-current", "step"); } else { one.removeAttribute("aria-current"); }
    });
    put(place("title"), step.title);
    put(place("how"), step.how);
    figures(step);
    keys(step);
    place("done").hidden = step.phase !== "done";
    if (pacer) {
      if (step.phase === "seam") { pacer.start(step.from, step.to, now() - stands.since + stands.welded); } else { pacer.stop(); }
    }
    tick();
    awake();
  }

  function tick() {
    const { step, since } = stands;
    if (counting !== null) {
      countIn(step);
      return;
    }
    const passed = now() - since;
    // A restart continues the part of the seam.
    const welded = step.phase === "seam" ? passed + stands.welded : passed;
    const counted = step.down !== null;
    const clockAt = place("clock");
    if (step.phase === "done") {
      put(clockAt, "");
    } else if (step.still) {
      // The clock of a purge starts with its gas.
      put(clockAt, clock(0));
    } else if (counted) {
      put(clockAt, step.down - passed > 10 ? clock(step.down - passed + 0.999) : Math.max(0, step.down - passed).toFixed(1));
    } else {
      put(clockAt, step.limit !== null && passed < 10 ? passed.toFixed(1) : clock(welded));
    }
    put(place("of"), step.about !== null ? "of about " + clock(step.about + 0.5) : step.limit !== null ? "of " + step.limit + " s" : counted && passed >= step.down ? step.late : "");
    const late = step.limit !== null && passed > step.limit;
    root.classList.toggle("late", late);
    put(place("warn"), late ? step.late : off);
    if (cues) { cues.follow(step, since, welded); }
    // A power source shows the end of the arc, and some of them the end of the gas.
    const observed = led && (step.arc || (gas && step.led["gas-off"]));
    if (counted && step.then && passed >= step.down && !observed) { act("counted", since + step.down); return; }
    if (lead && lead.mode() === "timed" && step.timed !== null && !step.countIn && welded >= step.timed) { act("timed", since + step.timed - (welded - passed)); }
  }

  /* The seconds before the strike, each with a tone. */
  function countIn(step) {
    const left = step.timed - (now() - counting);
    if (left <= 0) {
      const at = counting + step.timed;
      counting = null;
      if (cues) { cues.say("strike"); }
      act("timed", at);
      return;
    }
    const shown = String(Math.ceil(left));
    if (place("clock").textContent !== shown) {
      put(place("clock"), shown);
      put(place("of"), "to the strike");
      if (cues) { cues.play([660]); }
    }
  }

  /* A pressed key, or an automatic event: saved, shown, sent. */
  function act(key, at, step = stands.step.key) {
    // An open page was no session yet.
    if (!known.length && !run.unsent.length) { run.began = Math.max(run.began, at - BEGUN_S); }
    run.unsent.push({ id: device + "-" + random().slice(0, 10), at, step, key });
    store();
    moved();
    send();
  }

  /* Show the current step, if the events have changed it. */
  function moved() {
    const was = stands.step.key + "@" + stands.since + stands.back;
    stands = play();
    if (stands.step.key + "@" + stands.since + stands.back !== was) { show(); }
  }

  function press(key) {
    const at = window.performance.now();
    const known = key === "back" ? stands.back || counting !== null : stands.step.keys.some((one) => one.key === key);
    if (at - pressed < TWICE_MS || !known) { return; }
    pressed = at;
    if (counting !== null && (key === "back" || key === "main")) {
      // A second tap cancels the count-in.
      show();
    } else if (key === "main" && isCountedIn(stands.step)) {
      counting = now();
      tick();
    } else {
      act(key, now());
    }
  }

  function say(words) {
    if (words !== told) {
      told = words;
      put(place("told"), words);
    }
  }

  /* The summary of a session, requested when it is done and the server has all events. It
     replaces a part, because a page load would swallow a tap. */
  async function finished() {
    if (stands.step.phase !== "done" || run.unsent.length || place("came").dataset.fresh) { return; }
    try {
      const text = await (await window.fetch(window.location.href, { headers: { Accept: "text/html" } })).text();
      const done = new DOMParser().parseFromString(text, "text/html").querySelector("[data-done]:not([hidden])");
      if (!done || stands.step.phase !== "done") { return; }
      place("came").dataset.fresh = "yes";
      place("came").replaceChildren(...done.querySelector("[data-came]").children);
      const to = place("done").querySelector(".acts");
      if (!to.children.length) { to.replaceChildren(...done.querySelector(".acts").children); }
      root.querySelector(".at-source")?.remove();
    } catch (error) {
      window.setTimeout(finished, AGAIN_MS);
    }
  }

  async function send() {
    if (sending || !run.unsent.length) { return; }
    sending = true;
    window.clearTimeout(waiting);
    const sent = [...run.unsent];
    try {
      const response = await posted(run, sent);
      if (!response.ok) {
        say(await getRefusal(response));
        waiting = window.setTimeout(send, response.status >= 500 ? AGAIN_MS : REFUSED_MS);
        sending = false;
        return;
      }
      const answer = await response.json();
      const taken = new Set(sent.map((one) => one.id));
      run.unsent = run.unsent.filter((one) => !taken.has(one.id));
      run.number = answer.number;
      run.port = answer.port;
      known = answer.acts;
      keepClock(answer.now);
      store();
      moved();
      say(stands.aside ? stands.aside + (stands.aside === 1 ? " entry" : " entries") + " of another device did not match the current step and were set aside." : "");
      finished();
    } catch (error) {
      say("No connection to Wise Arc. The run continues. This device saves your entries and sends them later.");
      waiting = window.setTimeout(send, AGAIN_MS);
    }
    sending = false;
    if (run.unsent.length && !waiting) { window.setTimeout(send, 0); }
    waiting = 0;
  }

  place("keys").addEventListener("click", (event) => {
    const button = event.target.closest("[data-key]");
    if (button) { press(button.dataset.key); }
  });
  /* Any key is the large button: a pedal that types, a knuckle on the space bar. Backspace goes back
     one step. Letters therefore never leave a run. Navigation keys keep their function. */
  const WALK = ["Tab", "Shift", "Control", "Alt", "AltGraph", "Meta", "Escape", "CapsLock", "?", "ContextMenu", "NumLock", "ScrollLock"];
  window.addEventListener("keydown", (event) => {
    const open = document.querySelector(":popover-open");
    const typed = event.target.closest && event.target.closest("input, textarea, select");
    const own = event.target.closest && event.target.closest("button, a, summary") && (event.key === "Enter" || event.key === " ");
    if (event.ctrlKey || event.metaKey || event.altKey || WALK.includes(event.key) || /^(F([1-9]|1[0-2])$|Arrow|Audio|Browser|Launch)/.test(event.key) || open || typed || own || stands.step.phase === "done") { return; }
    event.preventDefault();
    event.stopImmediatePropagation();
    if (!event.repeat) { press(event.key === "Backspace" ? "back" : "main"); }
  }, true);

  let lock = null;
  async function awake() {
    const where = place("awake");
    if (!("wakeLock" in navigator)) {
      put(where, "This browser cannot keep the screen awake. Change the screen time-out in the settings of the device.");
      return;
    }
    if (lock || document.hidden || stands.step.phase === "done") { return; }
    try {
      lock = await navigator.wakeLock.request("screen");
      lock.addEventListener("release", () => { lock = null; });
      put(where, "The screen stays awake.");
    } catch (error) {
      lock = null;
      put(where, "The screen may turn off: this device does not allow it to stay awake.");
    }
  }
  document.addEventListener("visibilitychange", awake);

  /* The power source, four times a second. */
  async function live() {
    if (run.number && run.port && stands.step.phase !== "done") {
      try {
        const response = await window.fetch(addresses.live.replace("NUMBER", run.number) + "?after=" + trace.last() + "&have=" + known.length, { headers: { Accept: "application/json" } });
        if (response.ok) { heard(await response.json()); }
      } catch (error) {
        /* The drawing stays. The events show that the server is unavailable. */
      }
    }
    window.setTimeout(live, LIVE_MS);
  }
  function heard(answer) {
    led = answer.state === "reading";
    gas = answer.gas === true;
    if (answer.port === null && run.port) {
      run.port = null;
      say("The power source now leads another run. Your taps move the steps.");
    }
    if (answer.acts) {
      known = answer.acts.map((one) => ({ ...one, at: one.at + stored("skew", skew) }));
      store();
      moved();
      finished();
    }
    if (answer.state === undefined) { return; }
    if (answer.rows.length) { trace.add(answer.rows); }
    place("facts").replaceChildren(...answer.facts.map(([label, words]) => {
      const box = document.createElement("div");
      const term = document.createElement("dt");
      const value = document.createElement("dd");
      term.textContent = label;
      value.textContent = words;
      box.append(term, value);
      return box;
    }));
    const outside = answer.left.join(". ");
    if (outside && !off && cues) { cues.say("range"); }
    off = outside;
    if (answer.words) { say(answer.words); } else if (told.includes("power source has") || told.includes("no power source")) { say(""); }
  }

  let wasReady = true;
  async function purged() {
    const where = place("purge");
    if (where && (stands.step.phase === "purge" || stands.step.phase === "tacks" || stands.step.key === "ready-1")) {
      try {
        const answer = await (await window.fetch(where.dataset.purge, { headers: { Accept: "application/json" } })).json();
        if (answer.ready && !wasReady && cues) { cues.once("purge"); }
        wasReady = answer.ready === true;
        put(where, answer.words ? "Purge: " + answer.large + " " + answer.large_text + ". " + answer.words : "");
      } catch (error) {
        put(where, "Purge: no connection to Wise Arc. Use the clock.");
      }
    } else if (where) {
      put(where, "");
    }
    window.setTimeout(purged, PURGE_MS);
  }

  place("came").dataset.fresh = stands.step.phase === "done" && !run.unsent.length ? "yes" : "";
  pacer = window.arcPacer(place("pace"), data.pace);
  trace = window.arcTrace(place("trace"), data);
  cues = window.arcCues(root, data.cues, stored, keep);
  lead = window.arcLead(root, data, {
    stored,
    keep,
    say,
    signal(key, at) { act(key, at, data.anyStep); },
    hasWelded() { return [...known, ...run.unsent].some((one) => one.step === data.anyStep && one.key === "long"); },
    changed: show,
  });
  root.dataset.ready = "yes";
  window.setInterval(tick, 100);
  window.addEventListener("online", send);
  show();
  if (run.unsent.length) { send(); }
  live();
  if (place("purge") && place("purge").dataset.purge) { purged(); }

  /* If the browser caches pages (this machine, or https), Weld opens without the network. */
  if (window.isSecureContext && "serviceWorker" in navigator) {
    navigator.serviceWorker.register(place("holds").dataset.holds, { scope: place("holds").dataset.scope }).then(() => put(place("holds"), "Saved on this device. It also opens without the server."), () => {});
  }
})();
