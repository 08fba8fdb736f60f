/* The plot of a log moves without a page load: the same links replace a part of the page. */
(() => {
  const plot = () => document.querySelector('[data-part="plot"]');
  let asked = 0;

  async function go(href, push) {
    const mine = asked += 1;
    const response = await window.fetch(href, { headers: { Accept: "text/html" } });
    if (!response.ok || mine !== asked) { return; }
    const fresh = new DOMParser().parseFromString(await response.text(), "text/html").querySelector('[data-part="plot"]');
    const focused = document.activeElement && document.activeElement.getAttribute("aria-keyshortcuts");
    plot().replaceWith(document.adoptNode(fresh));
    if (focused) { document.querySelector('[aria-keyshortcuts="' + focused + '"]').focus(); }
    if (push) { window.history.pushState({}, "", href); }
  }

  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[data-live]");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey) { return; }
    event.preventDefault();
    go(link.href, true).catch(() => { window.location.href = link.href; });
    if (!link.closest('[data-part="plot"]')) { plot().scrollIntoView({ block: "nearest" }); }
  });
  window.addEventListener("popstate", () => go(window.location.href, false).catch(() => window.location.reload()));
})();
