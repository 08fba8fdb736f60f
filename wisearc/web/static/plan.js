/* Plan: the browser draws and asks; the server decides. State here is what is open, and the link. */
document.addEventListener("alpine:init", () => {
  Alpine.data("plan", () => ({
    word: "",
    line: "",
    said: "",
    link: "",
    queue: [],
    running: false,
    epoch: 0,
    waiting: 0,
    typingKey: "",
    sent: false,
    extra: "",
    have: {},
    stale: {},
    view: "cut",

    init() {
      this.link = this.$root.dataset.link;
      this.extra = this.pageKeys(window.location.search);
      this.view = new URLSearchParams(window.location.search).get("view") || "cut";
      document.querySelectorAll("[data-part]").forEach((el) => { this.have[el.dataset.part] = el.dataset.have; });
      this.showHeld();
    },
    /* Show what is open, hide the rest. */
    show() {
      document.querySelectorAll(".editor").forEach((el) => { el.hidden = el.id !== "editor-" + this.word; });
      document.querySelectorAll("[data-word]").forEach((el) => el.setAttribute("aria-expanded", String(el.dataset.word === this.word)));
      document.querySelectorAll(".answer-more").forEach((el) => { el.hidden = el.id !== "more-" + this.line; });
      document.querySelectorAll("[data-line]").forEach((el) => el.setAttribute("aria-expanded", String(el.dataset.line === this.line)));
    },

    pageKeys(search) {
      const all = new URLSearchParams(search);
      const kept = new URLSearchParams();
      ["draft", "edit", "from"].forEach((key) => { if (all.has(key)) { kept.set(key, all.get(key)); } });
      return kept.toString();
    },

    clicked(event) {
      const word = event.target.closest("[data-word]");
      const line = event.target.closest("[data-line]");
      const sets = event.target.closest("[data-sets]");
      const against = event.target.closest("[data-against]");
      const tab = event.target.closest("[data-view]");
      const release = event.target.closest("[data-release]");
      if (word) {
        this.openWord(word.dataset.word);
      } else if (event.target.closest("[data-shut]")) {
        this.shut();
      } else if (event.target.closest("[data-same]")) {
        this.ask((params) => {
          Array.from(params.keys()).filter((key) => key.startsWith("b.")).forEach((key) => params.delete(key));
        }, "b.form");
      } else if (event.target.closest("[data-third]")) {
        this.third(event.target.closest("[data-third]").dataset.third);
      } else if (tab) {
        this.turnTo(tab.dataset.view);
      } else if (against) {
        const params = new URLSearchParams(this.link);
        this.put(params, JSON.parse(against.dataset.against));
        this.compare(this.link, params.toString());
      } else if (sets) {
        this.take(JSON.parse(sets.dataset.sets), sets);
      } else if (release) {
        this.ask((params) => params.delete(release.dataset.release), "", release.closest(".answer-box"));
      } else if (line) {
        this.openLine(line.dataset.line);
      } else if (this.word && !event.target.closest(".editor")) {
        this.shut();
      }
    },
    /* The inside of an answer is asked for when it is opened, if the joint has changed since it was drawn. */
    openLine(line) {
      this.line = this.line === line ? "" : line;
      this.show();
      if (this.line && this.stale[this.line]) { this.ask(() => {}, ""); }
    },
    take(values, from) {
      this.ask((params) => this.put(params, values), "", from.closest(".answer-box"));
    },
    put(params, values) {
      Object.entries(values).forEach(([key, value]) => {
        if (value === null) { params.delete(key); } else { params.set(key, String(value)); }
      });
    },
    third(what) {
      if (what === "drop") { this.word = ""; }
      this.ask(() => {}, "third." + what);
    },

    /* Drawings: one at a time; arrows go along the tabs. */
    showTabs() {
      document.querySelectorAll("[data-view]").forEach((el) => {
        el.setAttribute("aria-selected", String(el.dataset.view === this.view));
        el.tabIndex = el.dataset.view === this.view ? 0 : -1;
      });
    },
    turnTo(view) {
      this.view = view;
      this.showTabs();
      window.history.replaceState({}, "", this.address(this.link));
      this.ask(() => {}, "");
    },
    tabKeys(event) {
      const tab = event.target.closest("[data-view]");
      if (!tab || !["ArrowRight", "ArrowLeft"].includes(event.key)) { return; }
      const all = Array.from(document.querySelectorAll("[data-view]"));
      const next = all[(all.indexOf(tab) + (event.key === "ArrowRight" ? 1 : all.length - 1)) % all.length];
      next.focus();
      this.turnTo(next.dataset.view);
    },
    address(link) {
      return this.$root.dataset.page + "?" + link + (this.extra ? "&" + this.extra : "") + (this.view !== "cut" ? "&view=" + this.view : "");
    },

    /* Compare: hold one set-up, then set another beside it. */
    hold() {
      const held = window.sessionStorage.getItem("held");
      if (held && held !== this.link) {
        window.sessionStorage.removeItem("held");
        this.compare(held, this.link);
        return;
      }
      window.sessionStorage.setItem("held", this.link);
      this.said = "Held. Change what you like, then press Compare with held.";
      this.showHeld();
    },
    showHeld() {
      const held = window.sessionStorage.getItem("held");
      this.$refs.hold.textContent = held && held !== this.link ? "Compare with held" : held ? "Held" : "Hold to compare";
    },
    compare(left, right) {
      window.location.assign(this.$refs.hold.dataset.compare + "?left=" + encodeURIComponent(left) + "&right=" + encodeURIComponent(right));
    },

    openWord(word) {
      const before = this.word;
      this.word = before === word ? "" : word;
      this.show();
      if (this.word) {
        const panel = document.getElementById("editor-" + word);
        const field = panel.querySelector("input[type=text]") || panel.querySelector("input:checked") || panel.querySelector("input");
        if (field) {
          field.focus({ preventScroll: window.innerWidth >= 768 });
          if (field.type === "text") { field.select(); }
        }
      }
    },
    shut() {
      if (!this.word) { return; }
      const back = document.getElementById("word-" + this.word);
      this.word = "";
      this.show();
      if (back) { back.focus({ preventScroll: true }); }
    },

    changed(event) {
      const key = event.target.dataset.key;
      if (!key) { return; }
      window.clearTimeout(this.waiting);
      this.setValue(key, event.target.value, true);
    },
    typed(event) {
      const key = event.target.dataset.key;
      if (!key || event.target.type !== "text" || event.target.closest(".answers")) { return; }
      window.clearTimeout(this.waiting);
      const value = event.target.value;
      this.waiting = window.setTimeout(() => this.setValue(key, value, false), 160);
    },
    setValue(key, value, done) {
      this.ask((params) => {
        if (value.trim() === "") { params.delete(key); } else { params.set(key, value); }
      }, key, null, done);
    },

    /* Ask the server for the joint with one thing changed, and draw what it answers. One at a time, each upon the
       last answer, so that two quick changes both stand; a field typed on before its turn counts once. */
    async ask(change, changed, anchor, done) {
      const entry = { change, changed, anchor, done };
      const last = this.queue[this.queue.length - 1];
      if (changed && last && last.changed === changed) {
        this.queue[this.queue.length - 1] = entry;
      } else {
        this.queue.push(entry);
      }
      if (this.running) { return; }
      this.running = true;
      this.$root.setAttribute("aria-busy", "true");
      while (this.queue.length) {
        await this.send(this.queue.shift());
      }
      this.running = false;
      this.$root.setAttribute("aria-busy", "false");
    },
    async send({ change, changed, anchor, done }) {
      const params = new URLSearchParams(this.link);
      change(params);
      const mine = this.epoch;
      const query = params.toString() + (changed ? "&changed=" + encodeURIComponent(changed) : "") + (this.extra ? "&" + this.extra : "") + "&view=" + this.view + "&open=" + this.line;
      let response;
      let body;
      try {
        response = await this.fetch(query);
        body = await response.json();
      } catch (error) {
        this.said = "The application does not answer; what you typed stands here. Start it again and go on.";
        return;
      }
      if (mine !== this.epoch) { return; }
      if (!response.ok) {
        this.refuse(body, changed);
        return;
      }
      this.draw(body, anchor);
      document.querySelectorAll("[aria-invalid]").forEach((el) => el.removeAttribute("aria-invalid"));
      document.querySelectorAll("[data-error]").forEach((el) => { el.hidden = true; });
      if (body.link !== this.link) {
        const goesOn = done === false && this.typingKey === changed;
        window.history[goesOn ? "replaceState" : "pushState"]({}, "", this.address(body.link));
        this.typingKey = done === false ? changed : "";
      }
      this.link = body.link;
      this.showHeld();
      this.said = body.said.join(" ");
    },
    fetch(query) {
      const have = Object.entries(this.have).map(([name, mark]) => name + ":" + mark).join(",");
      return window.fetch(this.$root.dataset.answers + "?" + query, { headers: { Accept: "application/json", "X-Have": have } });
    },
    refuse(body, changed) {
      const problems = body.problems || [{ key: changed, sentence: body.error }];
      problems.forEach((problem) => {
        const place = document.querySelector('[data-error="' + CSS.escape(problem.key) + '"]') || document.querySelector("#editor-" + (this.word || "none") + ' [data-error]');
        if (place) {
          place.textContent = problem.sentence;
          place.hidden = false;
          const input = place.parentElement.querySelector("input[type=text]");
          if (input) { input.setAttribute("aria-invalid", "true"); }
          if (problem.nearest) {
            const button = document.createElement("button");
            button.type = "button";
            button.className = "btn btn-quiet btn-small";
            button.textContent = "Take " + problem.nearest;
            button.dataset.sets = JSON.stringify({ [problem.key]: problem.nearest });
            place.append(" ", button);
          }
        } else {
          this.said = problem.sentence;
        }
      });
    },
    draw(body, anchor) {
      const active = document.activeElement;
      const focused = active && active.id ? active.id : "";
      const before = anchor ? anchor.getBoundingClientRect().top : 0;
      if (body.link !== this.link) {
        document.querySelectorAll("[data-line]").forEach((el) => { this.stale[el.dataset.line] = true; });
      }
      Object.entries(body.parts).forEach(([name, html]) => {
        this.have[name] = body.have[name];
        if (name.startsWith("more-")) { delete this.stale[name.slice(5)]; }
        this.drawPart(document.querySelector('[data-part="' + name + '"]'), name, html);
      });
      this.show();
      const again = focused ? document.getElementById(focused) : null;
      if (again && again !== document.activeElement) { again.focus({ preventScroll: true }); }
      document.title = body.title + " – Wise Arc";
      if (anchor) { window.scrollBy(0, anchor.getBoundingClientRect().top - before); }
    },
    drawPart(place, name, html) {
      const open = this.word && name === "editor-" + this.word ? document.getElementById(name) : null;
      if (open) { this.drawOpenEditor(open, html); } else { place.innerHTML = html; }
    },
    /* The open editor is changed in place, so that caret and typing stay. */
    drawOpenEditor(open, html) {
      const fresh = document.createElement("div");
      fresh.innerHTML = html;
      const next = fresh.firstElementChild;
      if (!next) { return; }
      const active = document.activeElement;
      const typingIn = active && active.dataset.key && active.type === "text" ? active : null;
      const typedText = typingIn ? typingIn.value : "";
      const focused = active ? active.id : "";
      Alpine.morph(open, next.outerHTML, { key: (el) => el.id });
      const again = focused && document.activeElement.id !== focused ? document.getElementById(focused) : null;
      if (again) { again.focus({ preventScroll: true }); }
      open.querySelectorAll("input[data-key]").forEach((input) => {
        if (input.type === "radio") {
          input.checked = input.hasAttribute("checked");
        } else {
          input.value = input === typingIn ? typedText : input.getAttribute("value");
        }
      });
    },

    refresh() { this.ask(() => {}, ""); },
    /* Back and forward: the address is the joint; what was on its way no longer counts. */
    back() {
      const all = new URLSearchParams(window.location.search);
      this.view = all.get("view") || "cut";
      this.showTabs();
      ["draft", "edit", "from", "view"].forEach((key) => all.delete(key));
      this.epoch += 1;
      this.queue = [];
      this.link = all.toString();
      this.typingKey = "";
      this.askBack();
    },
    async askBack() {
      const mine = this.epoch;
      this.$root.setAttribute("aria-busy", "true");
      const response = await this.fetch(this.link + "&view=" + this.view + "&open=" + this.line);
      const body = await response.json();
      if (mine !== this.epoch) { return; }
      if (!response.ok) { window.location.reload(); return; }
      this.link = "";
      this.draw(body, null);
      this.link = body.link;
      this.said = "";
      if (!this.running) { this.$root.setAttribute("aria-busy", "false"); }
    },
    keeping(event) {
      if (this.sent) { event.preventDefault(); }
      this.sent = true;
      window.setTimeout(() => { this.sent = false; }, 4000);
    },
  }));
});
