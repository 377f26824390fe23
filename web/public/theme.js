// Before the first paint, so that a dark-adapted eye never sees a white flash.
try {
  var theme = localStorage.getItem("salt-lamp.theme");
  // At the first start as the system has it; from then on as it was chosen here.
  if (!theme && matchMedia("(prefers-color-scheme: light)").matches) theme = "daylight";
  if (theme) document.documentElement.dataset.theme = theme;
} catch (_) {}
