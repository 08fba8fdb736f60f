/* The field of heat on a canvas: map, play, probe and section. The element <heat-field src> asks
   for its field, shows progress, and draws. Its light content is the page without script. */
(() => {
  const POLL_MS = 60;

  const SHELL = `
<div class="heat" part="heat">
  <p class="state" role="status" aria-live="polite"></p>
  <p class="failed" role="alert" hidden></p>
  <div class="seen" hidden>
    <div class="map-box"><canvas class="map" tabindex="0" role="img"></canvas></div>
    <div class="keys" aria-hidden="true"><span class="ramp"></span><span class="cold"></span><span class="hot"></span>
      <span class="line melt"></span><span class="melt-word"></span><span class="line glow"></span><span class="glow-word"></span>
      <span class="line tint"></span><span class="tint-word"></span><span class="ring"></span><span>cover of the cup</span>
      <span class="tacks-key"><span class="oval"></span> tack</span></div>
    <div class="play-row"><button type="button" class="play" aria-pressed="false">Play</button>
      <input type="range" class="scrub" min="0" max="1000" step="1" value="0" aria-label="Time">
      <output class="clock"></output></div>
    <p class="probe-words" role="status"></p>
    <div class="charts"><figure><canvas class="section" role="img"></canvas><figcaption>Across the seam at the arc</figcaption></figure>
      <figure><canvas class="history" role="img"></canvas><figcaption>Temperature at the probe over time</figcaption></figure></div>
  </div>
</div>`;

  class HeatField extends HTMLElement {
    static get observedAttributes() { return ["src"]; }

    connectedCallback() {
      if (!this.shadowRoot) {
        const root = this.attachShadow({ mode: "open" });
        const link = document.createElement("link");
        link.rel = "stylesheet";
        link.href = this.dataset.css;
        root.append(link);
        const box = document.createElement("div");
        box.innerHTML = SHELL;
        root.append(box.firstElementChild);
        this.part$ = (name) => root.querySelector(name);
        this.drawer = new window.HeatDrawer(this, root);
        this.wire();
      }
      this.alive = true;
      this.load();
    }

    disconnectedCallback() {
      this.alive = false;
      this.playing = false;
      if (this.waiting) { this.stopAsked(); }
    }

    attributeChangedCallback(name, before, now) {
      if (this.shadowRoot && before !== now) { this.load(); }
    }

    wire() {
      this.time = 0;
      this.probe = [null, 3];
      const map = this.part$(".map");
      this.part$(".play").addEventListener("click", () => this.toggle());
      this.part$(".scrub").addEventListener("input", (event) => {
        this.playing = false;
        this.showPlaying();
        this.setTime(this.field.fromShare(event.target.value / 1000), true);
      });
      const point = (event) => {
        if (!this.field) { return; }
        const box = map.getBoundingClientRect();
        const x = (event.clientX - box.left) / box.width * this.field.extent - this.field.view.start_mm;
        const y = this.half - (event.clientY - box.top) / box.height * 2 * this.half;
        this.probe = [x, y];
        this.probed = true;
        this.draw();
      };
      map.addEventListener("pointerdown", (event) => { map.setPointerCapture(event.pointerId); point(event); });
      map.addEventListener("pointermove", (event) => { if (event.buttons || event.pointerType === "mouse") { point(event); } });
      map.addEventListener("keydown", (event) => {
        const steps = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
        if (event.key === " ") { event.preventDefault(); this.toggle(); return; }
        if (!steps[event.key] || !this.field) { return; }
        event.preventDefault();
        event.stopPropagation();
        const view = this.field.view;
        this.probed = true;
        const limit = (v, low, high) => Math.min(high, Math.max(low, v));
        this.probe = [limit(this.probe[0] + steps[event.key][0], 0, view.length_mm),
          limit(this.probe[1] + steps[event.key][1], -this.half, this.half)];
        this.draw();
      });
      new ResizeObserver(() => this.draw()).observe(this);
      window.matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => this.draw());
      new MutationObserver(() => this.draw()).observe(document.documentElement, { attributeFilter: ["data-bs-theme"] });
    }

    async load() {
      const src = this.getAttribute("src");
      if (!src || !this.alive) { return; }
      const order = (this.order || 0) + 1;
      this.order = order;
      if (this.waiting) { this.stopAsked(); }
      await this.fetchField(src + "&preview=1", order);
      if (order === this.order && !this.failed) {
        await this.fetchField(src, order, true);
      }
    }

    stopAsked() {
      const number = this.waiting;
      this.waiting = "";
      const token = document.querySelector('input[name="csrf_token"]');
      if (!token) { return; }
      const fields = new URLSearchParams({ number, csrf_token: token.value });
      fetch(this.dataset.stop, { method: "POST", body: fields, keepalive: true }).catch(() => {});
    }

    async fetchField(src, order, full) {
      this.failed = false;
      for (;;) {
        let answer;
        let told;
        try {
          answer = await fetch(src, { headers: { Accept: "application/json" } });
          told = await answer.json();
        } catch (error) {
          this.say("No connection. The heat cannot be calculated now.", true);
          this.failed = true;
          return;
        }
        if (order !== this.order || !this.alive) { return; }
        if (answer.status === 202) {
          this.waiting = told.number;
          const words = full ? "Preview. The complete calculation" : "Calculating";
          this.part$(".state").textContent = words + ": " + Math.round(100 * told.progress) + " %";
          await new Promise((done) => { window.setTimeout(done, POLL_MS); });
          continue;
        }
        this.waiting = "";
        if (!answer.ok) {
          this.say(told.error, true);
          this.failed = true;
          return;
        }
        this.take(told, full);
        return;
      }
    }

    say(text, failed) {
      const box = this.part$(".failed");
      box.hidden = !failed;
      box.textContent = failed ? text : "";
      this.part$(".state").textContent = failed ? "" : text;
      if (failed) { this.part$(".seen").hidden = true; }
    }

    take(body, full) {
      const share = this.field ? this.field.toShare(this.time) : null;
      this.body = body;
      this.field = new window.HeatData(body.view);
      this.half = Math.min(Math.max(...this.field.across.map(Math.abs)), Math.max(18, 1.6 * body.view.cover_mm));
      if (!this.probed) { this.probe[0] = body.view.length_mm / 2; }
      this.time = share === null ? 0.6 * body.view.stopped_s : this.field.fromShare(share);
      this.say(full ? "" : "Preview. The complete calculation follows.", false);
      this.part$(".seen").hidden = false;
      this.drawer.showKeys(body.view);
      this.dispatchEvent(new CustomEvent("heat", { bubbles: true, detail: body }));
      this.setTime(this.time);
    }

    toggle() {
      this.playing = !this.playing;
      if (this.playing && this.time >= this.field.end - 0.01) { this.time = 0; }
      this.showPlaying();
      this.last = performance.now();
      const step = (now) => {
        if (!this.playing || !this.alive) { return; }
        // Real time during the weld at most 10 s a seam, faster while it cools.
        const view = this.field.view;
        const rate = this.time < view.stopped_s ? Math.max(1, view.stopped_s / 12) : Math.max(2, (this.field.end - view.stopped_s) / 8);
        const next = this.time + (now - this.last) / 1000 * rate;
        this.last = now;
        if (next >= this.field.end) { this.playing = false; this.showPlaying(); }
        this.setTime(Math.min(next, this.field.end), true);
        requestAnimationFrame(step);
      };
      if (this.playing) { requestAnimationFrame(step); }
    }

    showPlaying() {
      const button = this.part$(".play");
      button.textContent = this.playing ? "Pause" : "Play";
      button.setAttribute("aria-pressed", String(this.playing));
    }

    setTime(t, together) {
      this.time = t;
      if (!this.field) { return; }
      this.part$(".scrub").value = String(Math.round(1000 * this.field.toShare(t)));
      this.draw();
      if (together && this.dataset.group) {
        document.querySelectorAll('heat-field[data-group="' + this.dataset.group + '"]').forEach((other) => {
          if (other !== this && other.field) { other.setTime(Math.min(t, other.field.end)); }
        });
      }
    }

    draw() {
      if (!this.field || !this.alive) { return; }
      this.drawer.draw(this.field, this.time, this.half, this.probe);
      const after = this.time - this.field.view.stopped_s;
      const clock = this.part$(".clock");
      clock.textContent = this.time.toFixed(1) + " s";
      this.part$(".scrub").setAttribute("aria-valuetext", clock.textContent + (after > 0 ? ", " + after.toFixed(1) + " s after the arc" : ""));
    }
  }

  window.customElements.define("heat-field", HeatField);
})();
