/** Light or dark: what the system asks for, unless the reader settled it here. */
const system = window.matchMedia("(prefers-color-scheme: dark)");
const KEY = "oddlamp-theme";

function apply() {
	const settled = localStorage.getItem(KEY);
	document.documentElement.dataset.theme = settled ?? (system.matches ? "dark" : "light");
}

export function turnTheme() {
	localStorage.setItem(KEY, document.documentElement.dataset.theme === "dark" ? "light" : "dark");
	apply();
}

export function watchTheme() {
	apply();
	system.addEventListener("change", apply);
}
