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

  /* A form that keeps what is typed in this browser until it has been taken by the server. */
  Alpine.data("keptForm", () => ({
    init() {
      const form = this.$root;
      this.name = "typed:" + form.dataset.kept;
      if (form.dataset.fresh === "yes") {
        this.restore();
      }
      form.addEventListener("input", () => this.store());
      form.addEventListener("change", () => this.store());
    },
    fields() {
      return Array.from(this.$root.elements).filter((el) => el.name && el.type !== "hidden" && el.type !== "file" && el.type !== "submit");
    },
    store() {
      const kept = {};
      this.fields().forEach((el) => {
        if (el.type === "checkbox" || el.type === "radio") {
          if (el.checked) { kept[el.name] = el.value; }
        } else if (el.value !== el.defaultValue) {
          kept[el.name] = el.value;
        }
      });
      window.localStorage.setItem(this.name, JSON.stringify(kept));
    },
    restore() {
      let kept = {};
      try {
        kept = JSON.parse(window.localStorage.getItem(this.name)) || {};
      } catch (error) {
        kept = {};
      }
      this.fields().forEach((el) => {
        if (!(el.name in kept)) { return; }
        if (el.type === "checkbox" || el.type === "radio") {
          el.checked = kept[el.name] === el.value;
        } else {
          el.value = kept[el.name];
        }
      });
    },
  }));
});

/* The server has taken what was typed: forget the copy. */
document.querySelectorAll("[data-taken]").forEach((el) => window.localStorage.removeItem("typed:" + el.dataset.taken));
