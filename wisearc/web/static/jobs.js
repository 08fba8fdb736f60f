/* A job: seams moved by drag or Alt and the arrows, parts moved by drag or the arrows, and the
   search. The server calculates costs and broken rules. Nothing is calculated here. */
(() => {
  const page = document.querySelector("[data-job]");
  if (!page) { return; }
  const STEP = 2;
  const ASK_MS = 900;
  const CORNER = 0.18;
  let busy = false;
  let next = null;
  let sent = 0;

  function parts() { return Array.from(document.querySelectorAll("[data-part]")); }
  function have() { return parts().map((el) => el.dataset.part + ":" + el.dataset.have).join(","); }

  function put(body) {
    const focused = document.activeElement && document.activeElement.id;
    const block = document.activeElement && document.activeElement.dataset && document.activeElement.dataset.partBlock;
    Object.entries(body.parts || {}).forEach(([name, html]) => {
      const place = document.querySelector('[data-part="' + name + '"]');
      if (!place) { return; }
      const fresh = place.cloneNode(false);
      fresh.innerHTML = html;
      fresh.dataset.have = body.have[name];
      Alpine.morph(place, fresh.outerHTML, { key: (el) => el.id });
    });
    if (document.activeElement === document.body) {
      const again = block ? document.querySelector('[data-part-block="' + CSS.escape(block) + '"]') : focused && document.getElementById(focused);
      if (again) { again.focus({ preventScroll: true }); }
    }
  }

  function say(words) {
    const line = document.createElement("p");
    line.className = "told";
    line.textContent = words;
    const place = document.getElementById("told");
    const first = place.querySelector(".told");
    if (first) { first.replaceWith(line); } else { place.prepend(line); }
    place.dataset.have = "";
  }

  async function send(action, fields) {
    if (busy) { next = [action, fields]; return; }
    busy = true;
    sent += 1;
    try {
      const response = await window.fetch(action, { method: "POST", body: fields, headers: { Accept: "application/json", "X-Have": have() } });
      const body = await response.json();
      if (body.parts) { put(body); }
      if (body.told || body.error) { say(body.told || body.error); }
    } catch (error) {
      say("No connection to Wise Arc. This page is unchanged. Start Wise Arc and continue.");
    }
    busy = false;
    if (next) { const [a, f] = next; next = null; send(a, refreshed(f)); }
  }

  /* A request during another one is sent for the page of that moment. */
  function refreshed(fields) {
    const fresh = page.querySelector(".job-order form input[name='edit']");
    if (fresh) { fields.set("edit", fresh.value); }
    const order = page.querySelector("input[name='order']");
    if (order) { fields.set("order", order.value); }
    return fields;
  }

  function base() {
    const fields = new FormData();
    fields.set("csrf_token", page.dataset.token);
    const at = document.querySelector("[data-rungs] .rung.is-at");
    if (at) { fields.set("at", at.dataset.key); }
    const order = page.querySelector("input[name='order']");
    const rows = Array.from(document.querySelectorAll("[data-rungs] .rung")).map((el) => el.dataset.key);
    fields.set("order", order ? order.value : rows.join(","));
    const edit = document.querySelector("[data-edit]");
    fields.set("edit", edit ? edit.dataset.edit : "");
    const way = new URL(window.location.href).searchParams.get("way");
    if (way) { fields.set("way", way); }
    return fields;
  }

  page.addEventListener("submit", (event) => {
    if (!event.target.matches("[data-job-form]")) { return; }
    event.preventDefault();
    const fields = new FormData(event.target);
    if (event.submitter && event.submitter.name) { fields.set(event.submitter.name, event.submitter.value); }
    send(event.target.action, fields);
  });

  function move(key, to) {
    const fields = base();
    fields.set("key", key);
    fields.set("to", String(to + 1));
    send(page.dataset.move, fields);
  }

  page.addEventListener("keydown", (event) => {
    const rung = event.target.closest && event.target.closest("[data-rungs] .rung");
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!rung || !by || !event.altKey) { return; }
    event.preventDefault();
    const to = Number(rung.dataset.place) + by;
    if (to >= 0 && to < document.querySelectorAll("[data-rungs] .rung").length) { move(rung.dataset.key, to); }
  });

  /* A seam dragged by its number. Its cost is shown over a place. */
  page.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest && event.target.closest("[data-grip]");
    if (!grip || event.button) { return; }
    event.preventDefault();
    const rung = grip.closest(".rung");
    const from = Number(rung.dataset.place);
    let to = from;
    let asked = 0;
    const marks = () => document.querySelectorAll(".drop-here, .drop-after").forEach((el) => el.classList.remove("drop-here", "drop-after"));
    const over = (at) => {
      const rows = Array.from(document.querySelectorAll("[data-rungs] .rung"));
      const under = rows.find((el) => at.clientY < el.getBoundingClientRect().bottom) || rows[rows.length - 1];
      const place = Number(under.dataset.place);
      marks();
      if (place !== from) { under.classList.add(place > from ? "drop-after" : "drop-here"); }
      if (place === to) { return; }
      to = place;
      window.clearTimeout(asked);
      asked = window.setTimeout(() => announceTrial(rung.dataset.key, to), 120);
    };
    const end = (at) => {
      window.removeEventListener("pointermove", over);
      window.removeEventListener("pointerup", end);
      window.removeEventListener("pointercancel", end);
      window.clearTimeout(asked);
      rung.classList.remove("is-dragged");
      marks();
      if (at.type === "pointerup" && to !== from) { move(rung.dataset.key, to); }
    };
    rung.classList.add("is-dragged");
    window.addEventListener("pointermove", over);
    window.addEventListener("pointerup", end);
    window.addEventListener("pointercancel", end);
  });

  async function announceTrial(key, to) {
    const url = new URL(document.querySelector("[data-try]").dataset.try, window.location.href);
    url.searchParams.set("at", key);
    url.searchParams.set("to", String(to + 1));
    try {
      const response = await window.fetch(url);
      if (response.ok) { say((await response.text()).trim()); }
    } catch (error) {
      /* Announced at the drop. */
    }
  }

  /* Parts moved by drag, sized by their lower right corner; moved by the arrow keys, sized with
     Shift. */
  function lay(name, at) {
    const fields = base();
    fields.set("part", name);
    ["left", "top", "width", "height"].forEach((key, i) => fields.set(key, at[i].toFixed(2)));
    send(document.querySelector("[data-lay]").dataset.lay, fields);
  }
  function place(block) { return block.dataset.at.split(",").map(Number); }

  /* Two picked parts fill the form that joins them. */
  let picked = [];
  function pick(block) {
    const form = document.querySelector("[data-join]");
    if (!form) { return; }
    const name = block.dataset.partBlock;
    picked = picked.includes(name) ? picked.filter((one) => one !== name) : [...picked.slice(-1), name];
    document.querySelectorAll("[data-part-block]").forEach((one) => one.classList.toggle("is-picked", picked.includes(one.dataset.partBlock)));
    if (picked.length === 2) {
      [form.elements.first.value, form.elements.second.value] = picked;
      form.elements.line.focus();
    }
  }
  page.addEventListener("keydown", (event) => {
    const block = event.target.closest && event.target.closest("[data-part-block]");
    if (block && (event.key === "Enter" || event.key === " ")) {
      event.preventDefault();
      pick(block);
    }
  });

  page.addEventListener("keydown", (event) => {
    const block = event.target.closest && event.target.closest("[data-part-block]");
    const by = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] }[event.key];
    if (!block || !by) { return; }
    event.preventDefault();
    const at = place(block);
    const first = event.shiftKey ? 2 : 0;
    at[first] += by[0];
    at[first + 1] += by[1];
    lay(block.dataset.partBlock, at);
  });

  page.addEventListener("pointerdown", (event) => {
    const block = event.target.closest && event.target.closest("[data-part-block]");
    if (!block || event.button) { return; }
    const svg = block.ownerSVGElement.getBoundingClientRect();
    const box = block.querySelector("polygon").getBoundingClientRect();
    const sizes = event.clientX > box.right - Math.max(14, box.width * CORNER) && event.clientY > box.bottom - Math.max(14, box.height * CORNER);
    const began = [event.clientX, event.clientY];
    const at = place(block);
    const [width, wide, high] = block.ownerSVGElement.dataset.field.split(",").map(Number);
    const units = (px) => px / svg.width * width;
    const far = (to) => [units(to.clientX - began[0]) / wide * 100, units(to.clientY - began[1]) / high * 100];
    const over = (to) => {
      to.preventDefault();
      if (!sizes) { block.setAttribute("transform", "translate(" + units(to.clientX - began[0]) + " " + units(to.clientY - began[1]) + ")"); }
    };
    const end = (to) => {
      window.removeEventListener("pointermove", over);
      window.removeEventListener("pointerup", end);
      window.removeEventListener("pointercancel", end);
      block.removeAttribute("transform");
      const [x, y] = far(to);
      if (to.type === "pointerup" && Math.abs(x) + Math.abs(y) < 1) { pick(block); }
      if (to.type !== "pointerup" || Math.abs(x) + Math.abs(y) < 1) { return; }
      const first = sizes ? 2 : 0;
      at[first] += x;
      at[first + 1] += y;
      lay(block.dataset.partBlock, at);
    };
    window.addEventListener("pointermove", over);
    window.addEventListener("pointerup", end);
    window.addEventListener("pointercancel", end);
  });

  /* A search in progress is requested repeatedly. A hidden page waits. An answer from before a
     user action is out of date. */
  async function watch() {
    if (document.querySelector("[data-searching]") && !document.hidden && !busy) {
      const before = sent;
      try {
        const response = await window.fetch(window.location.href, { headers: { Accept: "application/json", "X-Have": have() } });
        const body = await response.json();
        if (body.parts && before === sent && !busy && !document.querySelector(".is-dragged")) { put(body); }
      } catch (error) {
        /* Requested again. */
      }
    }
    window.setTimeout(watch, ASK_MS);
  }
  window.setTimeout(watch, ASK_MS);
})();
