/* Inspection of a run: each choice is sent immediately, and a position along the seam can be
   dragged. The server diagnoses. */
(() => {
  const form = document.getElementById("seen");
  if (!form) { return; }
  let running = false;
  let again = false;
  /* New entries without a field: an answer, a dragged position. They go with every request until
     one is answered. */
  const more = new Map();
  const address = () => {
    const url = new URL(form.action);
    new FormData(form).forEach((value, name) => { if (value) { url.searchParams.append(name, value); } });
    more.forEach((value, name) => { url.searchParams.set(name, value); });
    return url;
  };
  const put = (text) => {
    const page = new DOMParser().parseFromString(text, "text/html");
    document.querySelectorAll("[data-part]").forEach((place) => {
      const fresh = page.querySelector('[data-part="' + place.dataset.part + '"]');
      const active = document.activeElement;
      const name = active && place.contains(active) ? active.name : "";
      const value = name ? active.value : "";
      if (fresh && fresh.innerHTML !== place.innerHTML) {
        place.innerHTML = fresh.innerHTML;
        if (name) {
          const same = Array.from(place.querySelectorAll("input, button")).find((el) => el.name === name && el.value === value);
          if (same) { same.focus({ preventScroll: true }); }
        }
      }
    });
    const error = page.getElementById("error-band");
    const field = document.getElementById("band");
    const old = document.getElementById("error-band");
    if (old) { old.remove(); }
    field.toggleAttribute("aria-invalid", Boolean(error));
    if (error) { field.setAttribute("aria-invalid", "true"); field.after(document.importNode(error, true)); }
    bars();
  };
  const read = async () => {
    if (running) { again = true; return; }
    running = true;
    const url = address();
    try {
      const answer = await window.fetch(url, { headers: { Accept: "text/html" } });
      const text = await answer.text();
      if (!text.includes('data-part="says"')) { throw new Error("no reading"); }
      more.forEach((value, name) => { if (url.searchParams.get(name) === value) { more.delete(name); } });
      put(text);
      if (answer.ok) { window.history.replaceState({}, "", url); }
    } catch (error) {
      const says = document.querySelector('[data-part="says"]');
      if (!says.querySelector(".silent")) {
        const line = document.createElement("p");
        line.className = "caution silent";
        line.textContent = "No connection to Wise Arc. Your entries are still on this page. Start Wise Arc and continue.";
        says.prepend(line);
      }
    }
    running = false;
    if (again) { again = false; read(); }
  };
  form.addEventListener("change", (event) => { more.delete(event.target.name); read(); });
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    const by = event.submitter;
    if (by && by.name) { more.set(by.name, by.value); }
    read();
  });
  /* A position along the seam. */
  const draw = (bar, from, to) => {
    const mark = bar.firstElementChild;
    mark.style.left = (100 * from) + "%";
    mark.style.width = (100 * (to - from)) + "%";
  };
  function bars() {
    document.querySelectorAll("[data-bar]").forEach((bar) => {
      const picked = bar.parentElement.querySelector("input:checked");
      const ends = (picked ? picked.dataset.ends || picked.value : "").split("-").map(Number);
      if (ends.length === 2 && ends.every((one) => !Number.isNaN(one))) { draw(bar, ends[0], ends[1]); } else { draw(bar, 0, 0); }
    });
  }
  form.addEventListener("pointerdown", (event) => {
    const bar = event.target.closest("[data-bar]");
    if (!bar) { return; }
    event.preventDefault();
    const box = bar.getBoundingClientRect();
    const at = (one) => Math.min(1, Math.max(0, (one.clientX - box.left) / box.width));
    const from = at(event);
    let to = from;
    const ends = () => [Math.min(from, to), Math.max(from, to)];
    const move = (one) => { to = at(one); draw(bar, ...ends()); };
    const done = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", done);
      window.removeEventListener("pointercancel", done);
      let [a, b] = ends();
      if (b - a < 0.02) { a = Math.max(0, a - 0.05); b = Math.min(1, b + 0.05); }
      more.set("where." + bar.parentElement.dataset.where, a.toFixed(2) + "-" + b.toFixed(2));
      read();
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", done);
    window.addEventListener("pointercancel", done);
  });
  bars();
  const now = document.querySelector(".attempt[aria-current]");
  if (now) { now.parentElement.scrollLeft = now.offsetLeft - now.parentElement.offsetLeft - 120; }
})();
