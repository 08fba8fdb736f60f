/* Immediate ticks: each is saved on this device, sent, and resent until the server has it. */
(() => {
  const page = document.querySelector("[data-set]");
  if (!page || page.hasAttribute("data-closed")) { return; }
  const name = "ticks:" + page.dataset.set;
  const told = page.querySelector("[data-told]");
  const count = page.querySelector("[data-count]");
  let sending = false;
  let waiting = 0;
  let leaving = null;

  function kept() {
    try {
      const found = JSON.parse(window.localStorage.getItem(name));
      return found && typeof found === "object" ? found : {};
    } catch (error) {
      return {};
    }
  }

  /* The ticks that the server lacks: line to on or off. */
  let unsent = kept();

  function keep() {
    try {
      if (Object.keys(unsent).length) { window.localStorage.setItem(name, JSON.stringify(unsent)); } else { window.localStorage.removeItem(name); }
    } catch (error) {
      /* Without storage the ticks are on this page only. */
    }
  }

  function now() { return window.performance.timeOrigin + window.performance.now(); }

  /* The time of the last tick that the server has. */
  function keepAnswered() {
    try {
      window.sessionStorage.setItem(name + ":answered", String(now()));
    } catch (error) {
      /* Without storage a page that is reloaded too early keeps its drawing. */
    }
  }

  /* Whether the server answered a tick while this page loaded: it may be drawn without the tick.
     A later time is from a clock that was set back. */
  function isOutdated() {
    try {
      const at = Number(window.sessionStorage.getItem(name + ":answered"));
      return at >= window.performance.timeOrigin && at <= now();
    } catch (error) {
      return false;
    }
  }

  function show(line, on) {
    const row = page.querySelector('[data-line="' + CSS.escape(line) + '"]');
    if (!row) { return; }
    row.classList.toggle("is-on", on);
    row.querySelector(".set-box").setAttribute("aria-pressed", String(on));
    row.querySelector('input[name="on"]').value = on ? "" : "yes";
  }

  function tell() {
    const rows = page.querySelectorAll("[data-line]");
    count.textContent = page.querySelectorAll(".is-on").length + " of " + rows.length + " done" + (Object.keys(unsent).length ? " · saved on this device" : "");
    markNext();
  }

  /* On the bench of a job: the first open line is marked, and the link above the list opens it. */
  function markNext() {
    const link = page.querySelector("[data-next]");
    if (!link) { return; }
    const next = page.querySelector("[data-line]:not(.is-on)");
    page.querySelectorAll("[data-line]").forEach((row) => row.classList.toggle("run-now", row === next));
    link.parentElement.hidden = next === null || !page.querySelector(".is-on");
    if (next) {
      link.href = "#" + next.id;
      link.textContent = link.dataset.next + next.dataset.title;
    }
  }

  function say(words) {
    if (told.textContent !== words) {
      told.textContent = words;
      told.classList.toggle("field-error", words !== "");
    }
  }

  async function send() {
    if (sending) { return; }
    sending = true;
    window.clearTimeout(waiting);
    try {
      while (Object.keys(unsent).length) {
        const line = Object.keys(unsent)[0];
        const on = unsent[line];
        const row = page.querySelector('[data-line="' + CSS.escape(line) + '"]');
        if (!row) {
          delete unsent[line];
          continue;
        }
        const fields = new FormData(row.querySelector("[data-tick]"));
        fields.set("on", on ? "yes" : "");
        const response = await window.fetch(row.querySelector("[data-tick]").action, { method: "POST", body: fields, headers: { Accept: "application/json" } });
        if (response.status >= 500) { throw new Error("again later"); }
        const answer = await response.json().catch(() => ({}));
        if (response.status === 403 || response.status === 400) {
          // The device is not paired, or the page is older than the last start.
          say((answer.error || "Not saved. Reload the page.") + " Your ticks are saved on this device.");
          waiting = window.setTimeout(send, 20000);
          break;
        }
        if (!response.ok) {
          unsent = {};
          say(answer.error || "Not saved. Reload the page.");
          break;
        }
        keepAnswered();
        if (unsent[line] === on) { delete unsent[line]; }
        answer.ticked.forEach((one) => { if (!(one in unsent)) { show(one, true); } });
        page.querySelectorAll("[data-line]").forEach((one) => {
          if (!(one.dataset.line in unsent) && !answer.ticked.includes(one.dataset.line)) { show(one.dataset.line, false); }
        });
        if (answer.svg) { page.querySelector("[data-drawing]").innerHTML = answer.svg; }
        say("");
      }
    } catch (error) {
      say("No connection to Wise Arc. This device saves the ticks and sends them later.");
      waiting = window.setTimeout(send, 3000);
    }
    sending = false;
    keep();
    tell();
    if (leaving && !Object.keys(unsent).length) { leaving.submit(); }
  }

  page.addEventListener("submit", (event) => {
    if (!event.target.matches("[data-tick]")) { return; }
    event.preventDefault();
    const line = event.target.closest("[data-line]").dataset.line;
    const on = event.target.querySelector(".set-box").getAttribute("aria-pressed") !== "true";
    unsent[line] = on;
    show(line, on);
    keep();
    tell();
    send();
  });

  if (isOutdated()) {
    window.location.reload();
    return;
  }
  Object.keys(unsent).forEach((line) => show(line, unsent[line]));
  if (Object.keys(unsent).length) { tell(); send(); }
  window.addEventListener("online", send);
  /* The set-up is finished: waiting ticks are sent first, however long that lasts. */
  page.addEventListener("submit", (event) => {
    if (!event.target.closest(".set-foot") || !Object.keys(unsent).length) { return; }
    event.preventDefault();
    leaving = event.target;
    send();
  });
})();
/* If the browser caches pages (this machine, or https), Set up opens without the network.
   Otherwise it shows that it cannot. */
(() => {
  const place = document.querySelector("[data-holds]");
  if (!place) { return; }
  if (!window.isSecureContext || !("serviceWorker" in navigator)) {
    place.textContent = "Without the network this page works while it stays open. To open it again you need the server.";
    return;
  }
  navigator.serviceWorker.register(place.dataset.holds, { scope: place.dataset.scope }).then(() => {
    place.textContent = "Saved on this device. It also opens without the server.";
  }, () => {
    place.textContent = "This browser cannot save pages. Without the network this page works while it stays open.";
  });
})();
