import { api, done } from '../api/calls';

export const SHOWN_SECONDS = 60;

/** Secrets of an installation while they are shown: a minute, then they leave the page. Each asking is recorded by the service. */
export class Reveal {
	shown: Record<string, string> = $state.raw({});
	left = $state(0);
	#ticking: ReturnType<typeof setInterval> | undefined;

	constructor(
		readonly installation: string,
		readonly recorded: () => void,
	) {}

	async show(credential: string): Promise<void> {
		const found = await done(
			api.POST('/api/v1/installations/{number}/reveal', {
				params: { path: { number: this.installation } },
				body: { credential },
			}),
		);
		this.shown = { ...this.shown, ...found.secrets };
		const until = Date.now() + SHOWN_SECONDS * 1000;
		this.left = SHOWN_SECONDS;
		clearInterval(this.#ticking);
		this.#ticking = setInterval(() => {
			this.left = Math.ceil((until - Date.now()) / 1000);
			if (this.left <= 0) this.hide();
		}, 500);
		this.recorded();
	}

	hide(): void {
		clearInterval(this.#ticking);
		this.shown = {};
		this.left = 0;
	}
}
