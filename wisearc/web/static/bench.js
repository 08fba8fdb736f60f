/* At the bench: a purge's clock and what the server says of it, asked twice a second. Nothing is reckoned here. */
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
      // what is said is changed only where it differs, so that it is read out once
      if (words.dataset.html !== body.words) {
        words.innerHTML = body.words;
        words.dataset.html = body.words;
      }
      // read out as it comes, not with every figure that moves
      if (said.textContent !== body.said) { said.textContent = body.said; }
      // why it was held back no longer holds
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

/* A choice of shape is followed at once. */
document.querySelectorAll("[data-resubmit]").forEach((form) => {
  form.addEventListener("change", (event) => {
    if (event.target.tagName === "SELECT") { form.requestSubmit(); }
  });
});
