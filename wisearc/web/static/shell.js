/* Common to every page: theme, keys, and forms that survive a reload. */
function typing(target) {
  return target.closest("input:not([type=radio]):not([type=checkbox]), textarea, select, [contenteditable]") !== null;
}

document.addEventListener("alpine:init", () => {
  Alpine.data("shell", () => ({
    going: false,
    theme(event) {
      const root = document.documentElement;
      const next = root.getAttribute("data-bs-theme") === "dark" ? "light" : "dark";
      root.setAttribute("data-bs-theme", next);
      const address = new URL(event.currentTarget.href);
      address.searchParams.set("theme", next);
      window.fetch(address, { redirect: "manual" });
    },
    /* A single letter opens or navigates. No letter saves anything, and they can be switched
       off. */
    key(event) {
      const busy = event.ctrlKey || event.metaKey || event.altKey || typing(event.target) || document.querySelector(".editor:popover-open");
      if (busy || !document.body.hasAttribute("data-letters")) { return; }
      const letter = CSS.escape(event.key);
      const wanted = this.going ? '.top [data-letter="' + letter + '"]' : '[aria-keyshortcuts="' + letter + '"]';
      this.going = !this.going && event.key === "g";
      if (this.going) {
        window.setTimeout(() => { this.going = false; }, 1500);
        return;
      }
      const target = document.querySelector(wanted);
      if (target) {
        event.preventDefault();
        target.focus();
        target.click();
      }
    },
  }));

  /* A form that is stored in this browser until the server has it, with its token, which
     identifies a repeated send, and the unit of each typed figure. */
  Alpine.data("keptForm", () => ({
    init() {
      const form = this.$root;
      this.name = "typed:" + form.dataset.kept;
      if (form.dataset.fresh === "yes") {
        this.restore();
      } else {
        this.store(true);
      }
      form.addEventListener("input", () => {
        this.store(false);
        window.clearTimeout(this.waiting);
        this.waiting = window.setTimeout(() => this.look(), 350);
      });
      form.addEventListener("change", () => {
        this.store(false);
        this.look();
      });
      this.look();
    },
    /* The preview from the server. Only the answer to the latest request is up to date, because
       answers can arrive in another order. Without it the page does not show an older one. */
    async look() {
      const form = this.$root;
      const place = form.querySelector("[data-looked]");
      const request = this.looked = (this.looked || 0) + 1;
      const fresh = place.cloneNode(false);
      try {
        const response = await window.fetch(form.dataset.look, { method: "POST", body: new FormData(form), headers: { Accept: "text/html" } });
        if (!response.ok) { throw new Error("no preview"); }
        fresh.innerHTML = await response.text();
      } catch (error) {
        const line = document.createElement("p");
        line.className = "off";
        line.textContent = "Wise Arc did not compare your entries with the plan. They are still on this page. Start Wise Arc, or reload the page.";
        fresh.append(line);
      }
      if (request === this.looked) { Alpine.morph(place, fresh.outerHTML); }
    },
    fields() {
      return Array.from(this.$root.elements).filter((el) => el.name && el.type !== "hidden" && el.type !== "file" && el.type !== "submit");
    },
    store(all) {
      const old = this.read();
      const kept = { once: this.$root.elements.once.value, values: {}, units: {}, whole: all || old.whole === true };
      this.fields().forEach((el) => {
        if (el.type === "checkbox" || el.type === "radio") {
          kept.values[el.name] = kept.values[el.name] || [];
          if (el.checked) { kept.values[el.name].push(el.value); }
        } else if (kept.whole || el.value !== el.defaultValue) {
          kept.values[el.name] = [el.value];
          if (el.dataset.unit) { kept.units[el.name] = el.dataset.unit; }
        }
      });
      window.localStorage.setItem(this.name, JSON.stringify(kept));
    },
    read() {
      try {
        const kept = JSON.parse(window.localStorage.getItem(this.name));
        return kept && kept.values && kept.units ? kept : {};
      } catch (error) {
        return {};
      }
    },
    restore() {
      const kept = this.read();
      if (!kept.values) { return; }
      if (kept.once) { this.$root.elements.once.value = kept.once; }
      this.fields().forEach((el) => {
        const values = kept.values[el.name];
        if (!Array.isArray(values)) { return; }
        if (el.type === "checkbox" || el.type === "radio") {
          el.checked = values.includes(el.value);
        } else if (values.length) {
          const unit = kept.units[el.name];
          const bare = /^[0-9.,]+$/.test(values[0]);
          el.value = unit && bare && unit !== el.dataset.unit ? values[0] + " " + unit : values[0];
        }
      });
    },
  }));
});

/* The server has the form with this token: delete its copy, and no other. */
document.querySelectorAll("[data-taken]").forEach((el) => {
  const name = "typed:" + el.dataset.taken;
  try {
    const kept = JSON.parse(window.localStorage.getItem(name));
    if (!kept || kept.once === el.dataset.once) { window.localStorage.removeItem(name); }
  } catch (error) {
    window.localStorage.removeItem(name);
  }
});

/* Delete the offline pages (sw.js) when another person uses this device. */
(async () => {
  const userId = document.documentElement.dataset.userId;
  if (!("caches" in window) || userId === undefined) { return; }
  async function clear() {
    const names = await window.caches.keys();
    await Promise.all(names.map((name) => window.caches.delete(name)));
  }
  document.addEventListener("submit", (event) => {
    if (event.target.matches("[data-clears-pages]")) { clear().catch(() => {}); }
  });
  try {
    const saved = await (await window.caches.open("user")).match("/user");
    if (saved && await saved.text() === userId) { return; }
    await clear();
    await (await window.caches.open("user")).put("/user", new Response(userId));
  } catch (error) {
    /* Without a cache there are no offline pages. */
  }
})();
