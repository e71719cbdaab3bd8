// Before the first paint, as a file of its own: the policy allows no inline script.
(function () {
	var kept = null;
	try {
		kept = localStorage.getItem('highshelf-mode');
	} catch {
		// A browser that keeps nothing gets what its system prefers.
	}
	var dark = kept ? kept === 'dark' : matchMedia('(prefers-color-scheme: dark)').matches;
	document.documentElement.dataset.mode = dark ? 'dark' : 'light';
})();
