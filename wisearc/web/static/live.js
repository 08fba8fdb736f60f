/* A page in parts: its marked links and its form work without a page load, and the answer of the
   server replaces parts. The server decides the meaning of every address and the changed parts.
   Nothing here builds a link. */
const TYPING_MS = 80;
const MOST_REMEMBERED = 30;
const SILENT = "No connection to Wise Arc. Your entries are still on this page. Start Wise Arc and continue.";

document.addEventListener("alpine:init", () => {
  Alpine.data("live", () => ({
    queue: [],
    running: false,
    epoch: 0,
    wait: 0,
    typing: null,
    pushed: false,
    closing: false,
    sending: false,
    refused: false,
    address: "",
    parts: new Map(),
    remembered: new Map(),

    init() {
      this.address = window.location.pathname + window.location.search;
      document.querySelectorAll("[data-part]").forEach((el) => { this.parts.set(el.dataset.part, [el.innerHTML, el.dataset.have]); });
      document.addEventListener("click", (event) => this.clicked(event));
      document.addEventListener("submit", (event) => this.submitted(event));
      document.addEventListener("input", (event) => this.typed(event));
      document.addEventListener("change", (event) => this.changed(event));
      document.addEventListener("toggle", (event) => this.toggled(event), true);
      document.addEventListener("focusout", (event) => this.left(event), true);
      document.addEventListener("keydown", (event) => this.pressed(event));
      window.addEventListener("popstate", () => this.back());
    },

    /* The requests of the page. */
    clicked(event) {
      const link = event.target.closest("a[data-live]");
      const elsewhere = event.button || event.ctrlKey || event.metaKey || event.shiftKey || event.altKey;
      if (!link || elsewhere || event.defaultPrevented) { return; }
      event.preventDefault();
      this.ask({ address: () => link.href, from: link });
    },
    submitted(event) {
      const form = event.target;
      if (form.id === "keeping") { this.keeping(event); }
      if (form.id !== "change" || event.defaultPrevented) { return; }
      event.preventDefault();
      if (event.submitter && event.submitter.name && !event.submitter.classList.contains("no-script")) {
        this.ask({ control: event.submitter });
        return;
      }
      this.finish();
      this.closing = true;
      this.settle();
    },
    /* A field is tried while typing, and applied when the user leaves it, or by Enter or Done. */
    typed(event) {
      const control = event.target;
      if (!control.form || control.form.id !== "change" || control.type !== "text") { return; }
      window.clearTimeout(this.wait);
      this.typing = control;
      this.wait = window.setTimeout(() => this.ask({ control, typing: true }), TYPING_MS);
    },
    changed(event) {
      const control = event.target;
      if (control.form && control.form.id === "change") { this.take(control); }
    },
    finish() {
      if (this.typing) { this.take(this.typing); }
    },
    take(control) {
      window.clearTimeout(this.wait);
      this.typing = null;
      this.ask({ control });
    },
    toggled(event) {
      const what = event.target;
      if (event.newState !== "open") { return; }
      if (what.classList.contains("editor")) {
        const field = what.querySelector("input[type=text]") || what.querySelector("input:checked") || what.querySelector("input");
        if (field) {
          field.focus({ preventScroll: true });
          if (field.type === "text") { field.select(); }
        }
        this.uncover(what);
      } else if (what.classList.contains("answer-box") && what.querySelector("[data-have='']")) {
        this.ask({ address: () => this.address, quiet: true });
      }
    },
    /* A sheet at the bottom must not cover the card that it changes. */
    uncover(editor) {
      const card = document.querySelector(".dial");
      if (!card) { return; }
      const box = card.getBoundingClientRect();
      const sheet = editor.getBoundingClientRect();
      if (sheet.left < box.right && sheet.right > box.left && box.bottom > sheet.top) {
        window.scrollBy({ top: box.bottom - sheet.top + 8, behavior: "instant" });
      }
    },
    /* An editor that is left by Tab closes. */
    left(event) {
      const editor = event.target.closest(".editor:popover-open");
      const next = event.relatedTarget;
      if (editor && next && !editor.contains(next) && next.getAttribute("popovertarget") !== editor.id) {
        this.finish();
        editor.hidePopover();
      }
    },
    pressed(event) {
      if (event.key === "s" && (event.ctrlKey || event.metaKey) && !event.altKey) {
        event.preventDefault();
        this.finish();
        document.getElementById("keep").click();
      }
    },
    /* A joint that is still being sent, or was refused, is not saved. */
    keeping(event) {
      this.finish();
      if (this.running || this.sending) { event.preventDefault(); }
      if (this.running) {
        this.after = event.target;
      } else {
        this.sending = true;
        window.setTimeout(() => { this.sending = false; }, 4000);
      }
    },

    /* One request at a time, based on the last answer, so that two quick changes are both
       applied. */
    async ask(entry) {
      const last = this.queue[this.queue.length - 1];
      if (last && last.typing && last.control === entry.control) { this.queue.pop(); }
      this.queue.push(entry);
      if (this.running) { return; }
      this.running = true;
      this.$root.setAttribute("aria-busy", "true");
      while (this.queue.length) { await this.send(this.queue.shift()); }
      this.running = false;
      this.$root.setAttribute("aria-busy", "false");
      this.settle();
    },
    settle() {
      if (this.running) { return; }
      const form = this.after;
      this.after = null;
      if (this.closing && !this.refused) {
        const open = document.querySelector(".editor:popover-open");
        if (open) { open.hidePopover(); }
      }
      this.closing = false;
      if (form && !this.refused) { form.requestSubmit(); }
    },
    url(entry) {
      if (entry.address) { return new URL(entry.address(), window.location.href); }
      const form = document.getElementById("change");
      const url = new URL(form.action);
      form.querySelectorAll("input[type=hidden]").forEach((el) => url.searchParams.append(el.name, el.value));
      url.searchParams.append(entry.control.name, entry.control.value);
      return url;
    },
    async send(entry) {
      const url = this.url(entry);
      const open = Array.from(document.querySelectorAll(".answer-box[open]")).map((el) => el.id.slice("answer-".length));
      url.hash = "";
      url.searchParams.set("open", open.join(","));
      const mine = this.epoch;
      let response;
      let body;
      try {
        response = await window.fetch(url, { headers: { Accept: "application/json", "X-Have": this.have() } });
        body = await response.json();
      } catch (error) {
        this.unanswered(entry);
        return;
      }
      if (mine !== this.epoch) { return; }
      if (!body.parts) {
        this.say(body.error);
        this.refused = true;
        return;
      }
      this.refused = !response.ok;
      if (entry.typing && this.refused) { return; }
      this.remember();
      this.put(body, entry);
      if (response.ok && !entry.quiet) { this.note(body.address, entry); }
    },
    have() {
      return Array.from(document.querySelectorAll("[data-part]")).map((el) => el.dataset.part + ":" + el.dataset.have).join(",");
    },

    /* The only replacement: each part changes in place, so that focus, caret, open parts and
       typed text stay. */
    put(body, entry) {
      const from = entry.from || entry.control;
      const anchor = from && from.isConnected && !from.closest(".editor") ? from.closest(".answer-box") || from.closest(".part") : null;
      const before = anchor ? anchor.getBoundingClientRect().top : 0;
      const focused = document.activeElement && document.activeElement.id;
      if (!entry.quiet) {
        document.querySelectorAll(".answer-box:not([open]) > .part-more").forEach((el) => { el.dataset.have = ""; });
      }
      Object.entries(body.parts).forEach(([name, html]) => {
        if (entry.typing && ["form", "keep", "told", "problems"].includes(name)) { return; }
        const place = document.querySelector('[data-part="' + name + '"]');
        if (place) {
          this.parts.set(name, [html, body.have[name]]);
          this.swap(place, html, body.have[name], entry.typing);
        }
      });
      document.title = body.title + " – Wise Arc";
      this.refocus(focused, anchor);
      if (anchor && anchor.isConnected) { window.scrollBy(0, anchor.getBoundingClientRect().top - before); }
    },
    swap(place, html, mark, typing) {
      const fresh = place.cloneNode(false);
      fresh.innerHTML = html;
      fresh.dataset.have = mark;
      const active = document.activeElement;
      Alpine.morph(place, fresh, { key: (el) => el.id });
      // A later choice that waits to be sent stays.
      const chosen = new Set(this.queue.filter((entry) => entry.control).map((entry) => entry.control.name));
      place.querySelectorAll("input[form], select[form]").forEach((el) => {
        if (chosen.has(el.name)) { return; }
        if (el.type === "radio") {
          el.checked = el.hasAttribute("checked");
        } else if (el.tagName === "SELECT") {
          el.value = (el.querySelector("option[selected]") || el.options[0]).value;
        } else if (!(typing && el === active)) {
          el.value = el.getAttribute("value");
        }
      });
    },
    refocus(id, anchor) {
      if (document.activeElement && document.activeElement !== document.body) { return; }
      const again = (id && document.getElementById(id)) || (anchor && anchor.isConnected && anchor.querySelector("summary")) || null;
      if (again) { again.focus({ preventScroll: true }); }
    },
    say(words) {
      const place = document.getElementById("told");
      const line = document.createElement("p");
      line.className = "told";
      line.textContent = words;
      place.replaceChildren(line);
      place.dataset.have = "";
    },
    unanswered(entry) {
      this.refused = true;
      this.queue = [];
      const known = entry.back ? this.remembered.get(window.location.pathname + window.location.search) : null;
      if (known) {
        known.forEach(([html, mark], name) => this.swap(document.querySelector('[data-part="' + name + '"]'), html, mark, false));
        this.parts = known;
        this.address = window.location.pathname + window.location.search;
      } else if (entry.back) {
        window.history.pushState({}, "", this.address);
      }
      this.say(SILENT);
    },

    /* The address is the joint: Back undoes a change. */
    note(address, entry) {
      const pushes = address !== this.address && !entry.back && !this.pushed;
      window.history[pushes ? "pushState" : "replaceState"]({}, "", address);
      this.pushed = Boolean(entry.typing) && (pushes || this.pushed);
      this.address = address;
    },
    remember() {
      this.remembered.set(this.address, new Map(this.parts));
      if (this.remembered.size > MOST_REMEMBERED) { this.remembered.delete(this.remembered.keys().next().value); }
    },
    back() {
      this.epoch += 1;
      this.queue = [];
      this.typing = null;
      this.pushed = false;
      this.ask({ address: () => window.location.href, back: true });
    },
  }));
});
