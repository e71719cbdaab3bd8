/** Light or dark: what the system prefers until somebody chooses. The first paint is set by /mode.js. */
class Mode {
	dark = $state(document.documentElement.dataset.mode === 'dark');

	turn(): void {
		this.dark = !this.dark;
		document.documentElement.dataset.mode = this.dark ? 'dark' : 'light';
		try {
			localStorage.setItem('highshelf-mode', this.dark ? 'dark' : 'light');
		} catch {
			// Kept for this visit only.
		}
	}
}

export const mode = new Mode();
