// Before the first paint, so that a dark-adapted eye never sees a white flash.
try {
  var theme = localStorage.getItem("salt-lamp.theme");
  if (theme) document.documentElement.dataset.theme = theme;
} catch (_) {}
