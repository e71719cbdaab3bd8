import { api, done, faultOf, gone, secret, type FaultBody, type Schemas } from '../api/calls';

const NOBODY: Schemas['SignedIn'] = {
	operator: '',
	session: '',
	csrf: '',
	first: false,
	version: '',
	news: [],
};

/** Who uses this browser. One object for the whole console. */
class Session {
	#now = $state.raw(NOBODY);
	known = $state(false);
	/** Signed out from elsewhere while working: the page stays until somebody signs in again. */
	ended = $state(false);
	fault: FaultBody | null = $state.raw(null);
	/** What was done about this sign-in since the last one; until it was read. */
	news: string[] = $state.raw([]);

	get operator(): string {
		return this.#now.operator;
	}
	get id(): string {
		return this.#now.session;
	}
	get first(): boolean {
		return this.#now.first;
	}
	get version(): string {
		return this.#now.version;
	}

	constructor() {
		gone.tell = () => {
			if (this.operator) this.ended = true;
			this.#become(NOBODY);
		};
	}

	async load(): Promise<void> {
		try {
			const now = await done(api.GET('/api/v1/session'));
			if (this.operator && !now.operator) this.ended = true;
			this.#become(now);
			this.fault = null;
			this.known = true;
		} catch (reason) {
			this.fault = faultOf(reason);
		}
	}

	async signIn(name: string, password: string): Promise<void> {
		this.#become(await done(api.POST('/api/v1/session', { body: { name, password } })));
	}

	async accept(code: string, name: string, password: string): Promise<void> {
		this.#become(await done(api.POST('/api/v1/session/accept', { body: { code, name, password } })));
	}

	async signOut(): Promise<void> {
		await done(api.DELETE('/api/v1/session'));
		this.#become(NOBODY);
		this.ended = false;
	}

	#become(now: Schemas['SignedIn']): void {
		this.#now = now;
		secret.csrf = now.csrf;
		if (now.operator) this.ended = false;
		if (now.news?.length) this.news = now.news;
	}
}

export const session = new Session();
