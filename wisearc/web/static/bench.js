/* At the bench: the clock of a purge and the state from the server, requested twice a second.
   Nothing is calculated here. */
const EVERY_MS = 500;
const purging = document.querySelector("[data-purge]");

if (purging && purging.dataset.phase !== "done") {
  const clock = purging.querySelector("[data-clock]");
  const words = purging.querySelector("[data-words]");
  const drawing = purging.querySelector("[data-drawing]");
  const said = purging.querySelector("[data-said]");
  const silent = purging.querySelector("[data-silent]");
  let base = Number(purging.dataset.elapsed);
  let since = window.performance.now();
  let shown = "";

  const tick = () => {
    const seconds = Math.floor(base + (window.performance.now() - since) / 1000);
    const text = Math.floor(seconds / 60) + ":" + String(seconds % 60).padStart(2, "0");
    if (text !== shown) { clock.textContent = shown = text; }
  };
  const ask = async () => {
    try {
      const response = await window.fetch(purging.dataset.purge, { headers: { Accept: "application/json" } });
      const body = await response.json();
      if (!response.ok) { throw new Error(body.error); }
      if (body.phase !== purging.dataset.phase) {
        window.location.reload();
        return;
      }
      base = body.elapsed;
      since = window.performance.now();
      // A text changes only if it differs, so that a screen reader announces it once.
      if (words.dataset.html !== body.words) {
        words.innerHTML = body.words;
        words.dataset.html = body.words;
      }
      // Announced once, not with every new figure.
      if (said.textContent !== body.said) { said.textContent = body.said; }
      // The reason to wait no longer applies.
      const held = purging.querySelector("[data-held]");
      if (held && body.ready) { held.remove(); }
      drawing.innerHTML = body.svg;
      silent.textContent = "";
    } catch (error) {
      silent.textContent = "No connection to Wise Arc. The clock continues, and the meter appears again after reconnection.";
    }
    window.setTimeout(ask, EVERY_MS);
  };
  window.setInterval(tick, 200);
  tick();
  ask();
}

/* A choice of shape is sent immediately. */
document.querySelectorAll("[data-resubmit]").forEach((form) => {
  form.addEventListener("change", (event) => {
    if (event.target.tagName === "SELECT") { form.requestSubmit(); }
  });
});
