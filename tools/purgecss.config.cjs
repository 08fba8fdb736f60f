// Bootstrap's stylesheet built down to what the templates use, when a version is taken in or a template uses more of it:
//   npm pack bootstrap@5.3.9, unpack it, then
//   npx purgecss@8.0.0 --config tools/purgecss.config.cjs --css package/dist/css/bootstrap.min.css --output wisearc/web/static/vendor/bootstrap
module.exports = {
  content: ["wisearc/web/**/*.html", "wisearc/web/static/*.js"],
  safelist: { standard: ["html", "body", ":root"], greedy: [/data-bs-theme/] },
};
