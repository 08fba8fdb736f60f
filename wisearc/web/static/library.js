/* The list of the library follows the search while it is typed. Without this file the form is sent as usual. */
document.addEventListener("alpine:initialized", () => {
  const form = document.querySelector("[data-library]");
  if (!form) { return; }
  let waiting = 0;
  let latest = 0;
  /* Only the answer to the latest request is up to date, because answers can arrive in another order. */
  async function refresh() {
    const request = latest += 1;
    const query = new URLSearchParams();
    new FormData(form).forEach((text, key) => { if (text !== "") { query.set(key, text); } });
    const address = form.action + (query.size ? "?" + query : "");
    try {
      const response = await window.fetch(address, { headers: { Accept: "text/html" } });
      if (!response.ok || request !== latest) { return; }
      const page = new DOMParser().parseFromString(await response.text(), "text/html");
      const fresh = page.querySelector("[data-results]");
      const place = document.querySelector("[data-results]");
      if (fresh && place) {
        Alpine.morph(place, fresh.outerHTML);
        window.history.replaceState(window.history.state, "", address);
      }
    } catch (error) {
      /* No connection: the form can still be sent. */
    }
  }
  form.addEventListener("input", () => {
    window.clearTimeout(waiting);
    waiting = window.setTimeout(refresh, 180);
  });
});
