// Before anything is drawn: the light or the dark theme, as this person last chose.
document.documentElement.dataset.bsTheme = localStorage.getItem("theme") === "dark" ? "dark" : "light";
