/* Before the first paint: the selected theme, or that of the device; and that scripts run. */
(function () {
  const chosen = document.cookie.match(/(?:^|; )theme=(light|dark)/);
  const dark = chosen ? chosen[1] === "dark" : window.matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.setAttribute("data-bs-theme", dark ? "dark" : "light");
  document.documentElement.setAttribute("data-script", "");
})();
