/* What every page has: units, theme, keys, and forms whose typing outlives a reload. */
const YEAR = 31536000;

function remember(name, value) {
  document.cookie = name + "=" + value + "; path=/; max-age=" + YEAR + "; samesite=lax";
}

function typing(target) {
  return target.closest("input:not([type=radio]):not([type=checkbox]), textarea, select, [contenteditable]") !== null;
}

document.addEventListener("alpine:init", () => {
  Alpine.data("shell", () => ({
    going: false,
    units() {
      const on = document.querySelector("[data-habit].on");
      const next = on && on.dataset.habit === "mm" ? "in" : "mm";
      remember("habit", next);
      document.querySelectorAll("[data-habit]").forEach((el) => el.classList.toggle("on", el.dataset.habit === next));
      if (document.querySelector("[data-answers]")) {
        window.dispatchEvent(new CustomEvent("habit"));
      } else {
        window.location.reload();
      }
    },
    theme() {
      const root = document.documentElement;
      const next = root.getAttribute("data-bs-theme") === "dark" ? "light" : "dark";
      root.setAttribute("data-bs-theme", next);
      remember("theme", next);
    },
    help() {
      this.$refs.keys.showModal();
    },
    key(event) {
      if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target) || document.querySelector("dialog[open]")) {
        return;
      }
      if (this.going) {
        this.going = false;
        const place = document.querySelector('.top [data-letter="' + CSS.escape(event.key) + '"]');
        if (place) {
          place.click();
        }
        return;
      }
      if (event.key === "g") {
        this.going = true;
        window.setTimeout(() => { this.going = false; }, 1500);
      } else if (event.key === "u") {
        this.units();
      } else if (event.key === "d") {
        this.theme();
      } else if (event.key === "?") {
        this.help();
      } else {
        const target = document.querySelector('main [aria-keyshortcuts="' + CSS.escape(event.key) + '"]');
        if (target) {
          event.preventDefault();
          target.click();
        }
      }
    },
  }));

  /* A form that keeps what is typed in this browser until it has been taken by the server.
     Kept beside it: the form's own token, by which sending it twice is known, and the unit that each figure was typed in. */
  Alpine.data("keptForm", () => ({
    init() {
      const form = this.$root;
      this.name = "typed:" + form.dataset.kept;
      if (form.dataset.fresh === "yes") {
        this.restore();
      } else {
        this.store(true);
      }
      form.addEventListener("input", () => this.store(false));
      form.addEventListener("change", () => this.store(false));
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

/* The server has taken what was typed, under the token it was sent with: forget the copy, and that one alone. */
document.querySelectorAll("[data-taken]").forEach((el) => {
  const name = "typed:" + el.dataset.taken;
  try {
    const kept = JSON.parse(window.localStorage.getItem(name));
    if (!kept || kept.once === el.dataset.once) { window.localStorage.removeItem(name); }
  } catch (error) {
    window.localStorage.removeItem(name);
  }
});
