import type { Schemas } from '../api/calls';
import { session } from './session.svelte';

export type Told = Schemas['EventOut'];
export type LineState = 'opening' | 'open' | 'down' | 'over';

// The service sends a beat every five seconds; three missed mean that the line is dead.
const SILENCE_MS = 16_000;
const AGAIN_MS = [500, 1000, 2000, 4000];
// Browsers keep six connections to a service in all tabs together: a tab nobody looks at gives its line back.
const HIDDEN_MS = 4_000;
const SIGNED_OUT_MS = 2_000;

/**
 * A line of server-sent events that heals by itself.
 *
 * It goes on after the last event it heard, whether the line dropped, the service was started anew, or the tab was hidden.
 */
export class LiveLine {
	state: LineState = $state('opening');
	#source: EventSource | null = null;
	#silence: ReturnType<typeof setTimeout> | undefined;
	#again: ReturnType<typeof setTimeout> | undefined;
	#hidden: ReturnType<typeof setTimeout> | undefined;
	#fails = 0;
	#stopped = false;
	#last: number;

	constructor(
		readonly path: string,
		readonly hear: (event: Told) => void,
		readonly healed: () => void = () => {},
		after = -1,
	) {
		this.#last = after;
	}

	start(): () => void {
		this.#stopped = false;
		document.addEventListener('visibilitychange', this.#seen);
		this.#open();
		return () => this.stop();
	}

	stop(): void {
		this.#stopped = true;
		document.removeEventListener('visibilitychange', this.#seen);
		clearTimeout(this.#hidden);
		this.#close();
	}

	#open(): void {
		this.#close();
		const source = new EventSource(`${this.path}?after=${this.#last}`);
		this.#source = source;
		this.#listen();
		source.addEventListener('beat', () => this.#alive());
		source.addEventListener('end', () => this.#over());
		source.onmessage = (event: MessageEvent<string>) => {
			this.#alive();
			const told = JSON.parse(event.data) as Told;
			this.#last = Math.max(this.#last, told.id);
			this.hear(told);
		};
		source.onerror = () => this.#dropped();
	}

	#alive(): void {
		const back = this.state === 'down';
		this.state = 'open';
		this.#fails = 0;
		this.#listen();
		if (back) this.healed();
	}

	#over(): void {
		this.#close();
		this.state = 'over';
	}

	#listen(): void {
		clearTimeout(this.#silence);
		this.#silence = setTimeout(() => this.#dropped(), SILENCE_MS);
	}

	#dropped(): void {
		this.#close();
		this.state = 'down';
		const wait = AGAIN_MS[Math.min(this.#fails, AGAIN_MS.length - 1)];
		this.#fails += 1;
		this.#again = setTimeout(() => void this.#retry(), wait);
	}

	/** A session that was ended elsewhere gets no line: wait until somebody signs in again, under whose eyes the page still is. */
	async #retry(): Promise<void> {
		await session.load();
		if (this.state !== 'down' || this.#stopped) return;
		if (session.operator) this.#open();
		else this.#again = setTimeout(() => void this.#retry(), SIGNED_OUT_MS);
	}

	#close(): void {
		clearTimeout(this.#silence);
		clearTimeout(this.#again);
		this.#source?.close();
		this.#source = null;
	}

	#seen = (): void => {
		clearTimeout(this.#hidden);
		if (document.hidden) {
			this.#hidden = setTimeout(() => this.#close(), HIDDEN_MS);
		} else if (this.#source === null && this.state !== 'over') {
			this.#open();
			this.healed();
		}
	};
}
