/** Put names into the query of the page's address, or take empty ones out, without a step in the browser's history. */
export function say(changes: Record<string, string>): void {
	const said = new URLSearchParams(location.search);
	for (const [name, value] of Object.entries(changes)) {
		if (value) said.set(name, value);
		else said.delete(name);
	}
	const text = said.toString();
	history.replaceState(history.state, '', location.pathname + (text ? `?${text}` : ''));
}
